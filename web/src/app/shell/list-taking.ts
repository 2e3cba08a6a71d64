import { computed, signal, type Signal, type WritableSignal } from '@angular/core';
import type { CheckedRow, Flaw } from '@iron-lattice/core/base';
import { attempt, type Problem } from '../session/problem';

/** A list as it was looked at: every row good, or with what is wrong with it. */
export interface SeenList {
  readonly rows: readonly CheckedRow<unknown>[];
  readonly flaws: readonly Flaw[];
}

/** What becomes of a list that somebody brings. */
export interface ListOf<Seen extends SeenList> {
  /** Has every row looked at; nothing is changed. */
  readonly look: (file: Blob) => Promise<Seen>;
  /** Takes the good rows; others are left out. */
  readonly take: (seen: Seen) => Promise<unknown>;
  /** What the press says that takes it; null where there is nothing to take. */
  readonly offer: (seen: Seen, count: { readonly good: number; readonly bad: number }) => string | null;
  /** What it comes to. Absent: how many rows are good. */
  readonly summary?: (seen: Seen, count: { readonly good: number; readonly bad: number }) => string;
}

/** A list on its way in, as the screen has it. */
export interface Taking {
  readonly seen: Signal<SeenList | null>;
  readonly summary: Signal<string>;
  /** What the press says that takes it; null where there is nothing to take. */
  readonly offer: Signal<string | null>;
  readonly problem: Signal<Problem | null>;
  readonly busy: Signal<boolean>;
  /** What was typed; it stays while it is looked at. */
  readonly typed: WritableSignal<string>;
  look(name: string, list: string | Blob): Promise<void>;
  take(): Promise<void>;
  aside(): void;
}

/** A list on its way in: brought, looked at, taken or put aside. Nothing of it counts before somebody says so. */
export class ListTaking<Seen extends SeenList> implements Taking {
  readonly seen = signal<Seen | null>(null);
  readonly name = signal('');
  readonly problem = signal<Problem | null>(null);
  readonly busy = signal(false);
  readonly typed = signal('');
  private readonly count = computed(() => {
    const rows = this.seen()?.rows ?? [];
    const good = rows.filter((row) => row.good !== null).length;
    return { good, bad: rows.length - good };
  });
  readonly offer = computed(() => {
    const seen = this.seen();
    return seen && this.of.offer(seen, this.count());
  });
  readonly summary = computed(() => {
    const [seen, { good, bad }] = [this.seen(), this.count()];
    if (!seen) return '';
    return this.of.summary?.(seen, { good, bad }) ?? `${this.name()}: ${good} good, ${bad} not.`;
  });

  /** @param done is called when the list was taken. */
  constructor(
    private readonly of: ListOf<Seen>,
    private readonly done: () => void,
  ) {}

  async look(name: string, list: string | Blob): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      this.seen.set(await this.of.look(typeof list === 'string' ? new Blob([list]) : list));
      this.name.set(name);
    });
  }

  async take(): Promise<void> {
    const seen = this.seen();
    if (seen && (await attempt(this.busy, this.problem, () => this.of.take(seen)))) this.done();
  }

  /** Another list is brought instead. */
  aside(): void {
    this.problem.set(null);
    this.seen.set(null);
  }
}
