import type { Device } from '../roster/device.model';
import type { LineListener } from './line-listener';

type Heard<K extends keyof LineListener> = Parameters<NonNullable<LineListener[K]>>;

/** Whom the line tells of what devices do: the parts of the controller, in the order in which they asked to be told. */
export class LineListeners {
  private readonly all: LineListener[] = [];

  add(listener: LineListener): void {
    this.all.push(listener);
  }

  /** Tells everybody who wants to hear it, one after the other. */
  async tell<K extends Exclude<keyof LineListener, 'admits' | 'called'>>(what: K, ...heard: Heard<K>): Promise<void> {
    for (const listener of this.all) {
      const hear = listener[what] as ((...all: Heard<K>) => Promise<unknown>) | undefined;
      await hear?.(...heard);
    }
  }

  /** Whether a device may come in. Nobody is let in whom nobody looked at. */
  async admits(...heard: Heard<'admits'>): ReturnType<NonNullable<LineListener['admits']>> {
    const guard = this.all.find(({ admits }) => admits)?.admits;
    return guard ? guard(...heard) : { code: 'busy', reason: 'The controller is starting.' };
  }

  /** Tells that a device called. @returns whether everybody has it told documents. */
  async called(device: Device, ...heard: [Heard<'called'>[1], Heard<'called'>[2]]): Promise<boolean> {
    let able = true;
    for (const { called } of this.all) if ((await called?.(device, ...heard)) === false) able = false;
    return able;
  }
}
