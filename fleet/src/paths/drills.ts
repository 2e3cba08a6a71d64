import type { DrilledMishap } from '@iron-lattice/core/line';
import { weatherBy, type Providers } from './providers';

/** What gateways play on their own uplinks, and on themselves; each ends by itself, and another one under way ends with the next. */
export class Drills {
  private readonly underWay = new Map<string, { readonly timers: NodeJS.Timeout[]; readonly sockets: Set<string> }>();

  constructor(
    private readonly providers: Pick<Providers, 'play'>,
    /** Links of a gateway are otherwise now. */
    private readonly look: (serial: string) => void,
  ) {}

  /** @param standStill has the gateway be without power for some seconds. */
  play(serial: string, mishaps: readonly DrilledMishap[], standStill: (seconds: number) => void): void {
    this.end(serial);
    const timers: NodeJS.Timeout[] = [];
    const later = (seconds: number, act: () => void): void => {
      timers.push(setTimeout(act, seconds * 1000).unref());
    };
    for (const mishap of mishaps) {
      const { what, port, from, to } = mishap;
      if (what === 'off') {
        later(from, () => standStill(to - from));
        continue;
      }
      const put = (on: boolean): void => {
        this.providers.play(`${serial}:${port}`, weatherBy(what, mishap, on));
        this.look(serial);
      };
      later(from, () => put(true));
      later(to, () => put(false));
    }
    later(Math.max(...mishaps.map(({ to }) => to)) + 0.01, () => this.end(serial));
    const sockets = new Set(mishaps.map(({ port }) => `${serial}:${port}`));
    this.underWay.set(serial, { timers, sockets });
  }

  /** A gateway plays nothing any more. */
  end(serial: string): void {
    const { timers, sockets } = this.underWay.get(serial) ?? { timers: [], sockets: [] };
    this.underWay.delete(serial);
    for (const timer of timers) clearTimeout(timer);
    for (const socket of sockets) this.providers.play(socket, null);
    this.look(serial);
  }

  endAll(): void {
    for (const serial of [...this.underWay.keys()]) this.end(serial);
  }
}
