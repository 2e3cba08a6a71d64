declare const OFFERED: unique symbol;

/** Names something that one part of the controller can do for others, which do not know who does it. */
export interface Offer<T> {
  readonly name: string;
  readonly [OFFERED]?: T;
}

/** A new name for something on offer. */
export const offer = <T>(name: string): Offer<T> => ({ name });

/** What parts of the controller do for each other. */
export class Offers {
  private readonly made = new Map<Offer<unknown>, unknown>();
  private readonly joined = new Map<Offer<unknown>, unknown[]>();

  /** Makes one of any number of its kind. */
  join<T>(what: Offer<T>, made: T): void {
    this.joined.set(what, [...this.all(what), made]);
  }

  /** All that were made of a kind. */
  all<T>(what: Offer<T>): readonly T[] {
    return (this.joined.get(what) ?? []) as T[];
  }

  /** @throws Error when somebody else offers it already. */
  make<T>(what: Offer<T>, made: T): void {
    if (this.made.has(what)) throw new Error(`${what.name} is offered twice`);
    this.made.set(what, made);
  }

  /** To be asked when it is needed, and not before: parts are opened one after the other. @throws Error when nobody offers it. */
  take<T>(what: Offer<T>): T {
    const found = this.made.get(what);
    if (found === undefined) throw new Error(`nobody offers ${what.name}`);
    return found as T;
  }
}
