import { computed, linkedSignal, signal, untracked, type Signal } from '@angular/core';
import { anewFor } from '../ui/anew-for';
import { followUnlessTyped } from '../ui/typed-over';
import { attempt, type Problem } from '../session/problem';

/** What a form is of, and how it reads. */
export interface EditFormOf<Item, Text> {
  /** The thing as it is kept now; null: one that is to be added. */
  readonly kept: () => Item | null;
  readonly idOf: (item: Item) => string;
  readonly textOf: (item: Item | null) => Text;
}

interface State<Item, Text> {
  readonly text: Text;
  /** The thing as whoever types saw it when they began. */
  readonly seen: Item | null;
  /** Whether they were told that somebody was first: then they mean what stands here. */
  readonly told: boolean;
}

/**
 * One form for a thing that is kept: what is typed, what of it differs from what is kept, and what was wrong with it. What is
 * heard meanwhile is followed where nothing was typed; where something was, it stays, and an edit says what was seen when
 * typing began, so that it is refused when somebody else was first. Make it where injection is possible.
 */
export class EditForm<Item, Text extends object> {
  private sent = false;
  private puts = 0;
  /** Whether the next that is heard of it is what was sent from here, while somebody goes on typing. */
  private own = false;
  private readonly state = linkedSignal<Item | null, State<Item, Text>>({
    source: () => this.of.kept(),
    computation: (now, previous) => {
      const text = this.of.textOf(now);
      const another = !previous || this.id(previous.source) !== this.id(now);
      if (another || this.sent) {
        this.sent = false;
        return { text, seen: now, told: false };
      }
      const before = this.of.textOf(previous.source);
      const { seen, told, text: typed } = previous.value;
      const stays = !same(typed, before) && !told && !this.own;
      this.own = false;
      return { text: followUnlessTyped(before, typed, text), seen: stays ? seen : now, told };
    },
  });
  readonly text: Signal<Text> = computed(() => this.state().text, { equal: same });
  /** The thing as whoever types saw it when they began. */
  readonly seen: Signal<Item | null> = computed(() => this.state().seen);
  readonly problem = anewFor<Problem | null>(
    () => JSON.stringify(this.text()),
    () => null,
  );
  readonly busy = signal(false);
  readonly differs = computed(() => !same(this.text(), this.of.textOf(this.of.kept())));
  /** What was refused and belongs to none of some fields that are shown. */
  readonly other = (fields: readonly string[]): string => {
    const problem = this.problem();
    return problem && !problem.flaws.some(({ field }) => fields.includes(field ?? '')) ? problem.message : '';
  };

  constructor(private readonly of: EditFormOf<Item, Text>) {}

  /** Somebody typed. */
  put(change: Partial<Text>): void {
    this.sent = false;
    this.puts++;
    this.state.update((state) => ({ ...state, text: { ...state.text, ...change }, told: false }));
  }

  /** As it is kept, or as a new one begins. */
  reset(): void {
    const now = untracked(() => this.of.kept());
    this.state.set({ text: this.of.textOf(now), seen: now, told: false });
  }

  /**
   * What differs of the fields that an edit may change: as they were seen, and as they are to be.
   * @param fieldsOf reads them of a thing; absent ones are null.
   */
  change<Fields extends object>(
    wanted: Fields,
    fieldsOf: (item: Item) => Partial<Fields>,
  ): { readonly from: Partial<Fields>; readonly to: Partial<Fields> } {
    const [now, seen] = [untracked(() => this.of.kept())!, untracked(this.state).seen!];
    const [kept, before] = [fieldsOf(now), fieldsOf(seen)];
    const differ = (Object.keys(wanted) as (keyof Fields)[]).filter(
      (key) => !same(wanted[key] ?? null, kept[key] ?? null),
    );
    const of = (fields: Partial<Fields>): Partial<Fields> =>
      Object.fromEntries(differ.map((key) => [key, fields[key] ?? null])) as Partial<Fields>;
    return { from: of(before), to: of(wanted) };
  }

  /**
   * What somebody means to change: as it is kept, but as they saw it where what they typed was changed by another meanwhile.
   * For things whose edit is not one of plain fields.
   */
  before(): Text {
    const { text, seen, told } = untracked(this.state);
    const [kept, then] = [this.of.textOf(untracked(() => this.of.kept())), this.of.textOf(seen)];
    if (told) return kept;
    const isClash = (key: keyof Text): boolean =>
      ![text[key], kept[key]].some((each) => same(each, then[key])) && !same(text[key], kept[key]);
    const entries = (Object.keys(kept) as (keyof Text)[]).map((key) => [key, isClash(key) ? then[key] : kept[key]]);
    return Object.fromEntries(entries) as Text;
  }

  /** Does what was typed. @returns whether it was done; else `problem` says why not. */
  async send(act: () => Promise<unknown>): Promise<boolean> {
    const [{ puts }, before] = [this, untracked(() => this.of.kept())];
    if (await attempt(this.busy, this.problem, act)) {
      // How it is kept is told next, if it was not yet. What was typed meanwhile stays, on top of what was sent.
      const now = untracked(() => this.of.kept());
      if (puts === this.puts) this.sent = true;
      else if (now === before) this.own = true;
      else this.state.update((state) => ({ ...state, seen: now }));
      return true;
    }
    const { code, flaws } = this.problem()!;
    if ([code, ...flaws.map((flaw) => flaw.code)].some((each) => /\.(changed|stale)$/.test(each)))
      this.state.update((state) => ({ ...state, seen: untracked(() => this.of.kept()), told: true }));
    return false;
  }

  private id(item: Item | null): string | null {
    return item === null ? null : this.of.idOf(item);
  }
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
