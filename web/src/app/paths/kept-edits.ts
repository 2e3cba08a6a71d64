import { inject } from '@angular/core';
import type { Operation } from '@iron-lattice/core/intent';
import type { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { turnSteps } from './turn-steps';

/** Something that a site keeps in a list. */
interface Kept {
  readonly id: string;
}
/** One that has a turn among others. */
type Turned = Kept & { readonly turn: number };

/** What is edited, and how it reads. */
interface KeptEditsOf<T extends Kept> {
  readonly noun: 'course' | 'pact' | 'publication' | 'route' | 'router' | 'translation';
  readonly form: Pick<EditForm<T, object>, 'send' | 'change' | 'reset'>;
  /** The one whose sheet is open; null: one that is to be added. */
  readonly kept: () => T | null;
  /** What is typed, as fields; null where it cannot be read. */
  readonly read: () => Omit<T, 'id' | 'deviceId' | 'turn'> | null;
  /** Secrets that what was read last refers to; absent: it has none. */
  readonly secrets?: () => Readonly<Record<string, string>>;
}

/** Edits of one thing of a list, from its sheet; one after the other. Make it where injection is possible. */
export class KeptEdits<T extends Kept> {
  private readonly store = inject(SiteStore);
  private readonly turns = new Turns();

  constructor(private readonly of: KeptEditsOf<T>) {}

  /** Puts into the draft what differs; a new one waits until it is added. */
  async save(): Promise<void> {
    const { form, kept, read } = this.of;
    if (kept() === null) return;
    await this.turns.take(() =>
      form.send(async () => {
        const fields = read();
        if (!fields) return;
        const { from, to } = form.change(fields, (now) => now);
        if (Object.keys(to).length > 0) await this.store.edit([this.set(kept()!.id, from, to)], this.of.secrets?.());
      }),
    );
  }

  /** Adds what is typed. @param more of it beside what is typed. @returns its id; null where it was refused. */
  async add(more: Partial<T>): Promise<string | null> {
    const fields = this.of.read();
    if (!fields) return null;
    const id = crypto.randomUUID();
    const { noun, form } = this.of;
    const operation = { type: `${noun}.add`, siteId: this.siteId, [noun]: { id, ...more, ...fields } };
    if (!(await form.send(() => this.store.edit([operation as unknown as Operation], this.of.secrets?.()))))
      return null;
    form.reset();
    return id;
  }

  /** Takes it away. @returns whether it is gone. */
  remove(): Promise<boolean> {
    const { noun, form, kept } = this.of;
    const operation = { type: `${noun}.remove`, siteId: this.siteId, [`${noun}Id`]: kept()!.id };
    return form.send(() => this.store.edit([operation as unknown as Operation]));
  }

  /** Has two beside each other change places. @param by whether the other comes before, or behind. */
  async swap(mine: Turned, theirs: Turned, by: -1 | 1): Promise<void> {
    const steps = turnSteps(mine, theirs, by).map(({ id, from, to }) => this.set(id, { turn: from }, { turn: to }));
    await this.turns.take(() => this.of.form.send(() => this.store.edit(steps)));
  }

  private get siteId(): string {
    return this.store.siteId()!;
  }

  private set(id: string, from: object, to: object): Operation {
    const { noun } = this.of;
    return { type: `${noun}.set`, siteId: this.siteId, [`${noun}Id`]: id, from, to } as unknown as Operation;
  }
}

/** The turn behind all others. */
export const lastTurn = (all: readonly { readonly turn: number }[]): number =>
  Math.max(0, ...all.map(({ turn }) => turn)) + 1;
