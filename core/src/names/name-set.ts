/** What an entry of a list means: the name itself, what is below it, or both. */
export const [ITSELF, BELOW] = [1, 2] as const;
export const BOTH = ITSELF | BELOW;

/** An entry that a name meets. */
export interface NameHit {
  readonly name: string;
  /** Whether it is the name itself, or one above it. */
  readonly exact: boolean;
}

/** What a table has room for at first. */
const FIRST_ROOM = 1024;
/** Share of the places of a table that may be taken. */
const FULL = 0.6;
const DOT = 46;

/**
 * Names, and what is below them, by the million: their letters lie behind each other, and a table of places finds each by a number made of its letters from
 * the right, so that all names above one are met on the way. A name takes its letters and some 20 octets besides.
 */
export class NameSet {
  private letters = new Uint8Array(FIRST_ROOM * 16);
  private used = 0;
  private starts = new Uint32Array(FIRST_ROOM);
  private kinds = new Uint8Array(FIRST_ROOM);
  private count = 0;
  /** Pairs: the number of an entry from 1, 0 for nobody, and what its letters make; most that are not meant are told by that alone. */
  private places = new Int32Array(2 * nextPower(FIRST_ROOM / FULL));
  private gone = 0;

  /** Entries. */
  get size(): number {
    return this.count - this.gone;
  }

  /** Octets that it takes. */
  get octets(): number {
    return this.letters.byteLength + this.starts.byteLength + this.kinds.byteLength + this.places.byteLength;
  }

  /** Takes an entry in. @param name as `readName` gives it. @returns whether it was not there yet as it is now. */
  add(name: string, kind: number = BOTH): boolean {
    const hash = hashOf(name);
    const place = this.placeOf(name, hash);
    const at = this.places[place]!;
    if (at > 0) {
      const before = this.kinds[at - 1]!;
      if ((before | kind) === before) return false;
      if (before === 0) this.gone--;
      this.kinds[at - 1] = before | kind;
      return true;
    }
    if (this.count + 1 > (this.places.length / 2) * FULL) {
      this.grow();
      return this.add(name, kind);
    }
    this.put(name, kind);
    this.places[place] = this.count;
    this.places[place + 1] = hash;
    return true;
  }

  /** Takes an entry out, as far as it means that. @returns whether it was there. */
  remove(name: string, kind: number = BOTH): boolean {
    const at = this.places[this.placeOf(name, hashOf(name))]!;
    if (at === 0) return false;
    const before = this.kinds[at - 1]!;
    const after = before & ~kind;
    this.kinds[at - 1] = after;
    if (before !== 0 && after === 0) this.gone++;
    return before !== after;
  }

  /** What an entry of just this name means; 0: there is none. */
  kindOf(name: string): number {
    const at = this.places[this.placeOf(name, hashOf(name))]!;
    return at === 0 ? 0 : this.kinds[at - 1]!;
  }

  /** The nearest entry that a name meets: itself, or one that it is below; null: it meets none. @param name as `readName` gives it. */
  find(name: string): NameHit | null {
    let [hash, best] = [SEED, -1];
    for (let at = name.length - 1; at >= 0; at--) {
      hash = mixed(hash, name.charCodeAt(at));
      if (at > 0 && name.charCodeAt(at - 1) !== DOT) continue;
      const kind = this.kindAt(name, at, hash);
      if (kind & (at === 0 ? ITSELF : BELOW)) best = at;
    }
    return best < 0 ? null : { name: name.slice(best), exact: best === 0 };
  }

  /** Whether a name meets any entry. */
  has(name: string): boolean {
    return this.find(name) !== null;
  }

  /** Entries and what each means, in the order in which they came. */
  *entries(): Generator<readonly [name: string, kind: number]> {
    for (let i = 0; i < this.count; i++) if (this.kinds[i]) yield [this.nameAt(i), this.kinds[i]!];
  }

  private kindAt(name: string, from: number, hash: number): number {
    const at = this.places[this.placeOf(name, hash, from)]!;
    return at === 0 ? 0 : this.kinds[at - 1]!;
  }

  /** Where what is behind a place of a name is, or would be. */
  private placeOf(name: string, hash: number, from = 0): number {
    const mask = this.places.length - 1;
    for (let place = firstPlace(hash, mask); ; place = (place + 2) & mask) {
      const at = this.places[place]!;
      if (at === 0 || (this.places[place + 1] === hash && this.isAt(at - 1, name, from))) return place;
    }
  }

  private isAt(entry: number, name: string, from: number): boolean {
    const start = this.starts[entry]!;
    const length = name.length - from;
    if (this.endOf(entry) - start !== length) return false;
    for (let i = 0; i < length; i++) if (this.letters[start + i] !== name.charCodeAt(from + i)) return false;
    return true;
  }

  private endOf(entry: number): number {
    return entry + 1 < this.count ? this.starts[entry + 1]! : this.used;
  }

  private nameAt(entry: number): string {
    return String.fromCharCode(...this.letters.subarray(this.starts[entry], this.endOf(entry)));
  }

  private put(name: string, kind: number): void {
    if (this.count === this.starts.length) {
      const room = Math.ceil(this.count * 1.5);
      this.starts = withRoom(this.starts, room, Uint32Array);
      this.kinds = withRoom(this.kinds, room, Uint8Array);
    }
    if (this.used + name.length > this.letters.length)
      this.letters = withRoom(this.letters, Math.ceil((this.used + name.length) * 1.5), Uint8Array);
    this.starts[this.count] = this.used;
    this.kinds[this.count] = kind;
    for (let i = 0; i < name.length; i++) this.letters[this.used + i] = name.charCodeAt(i);
    this.used += name.length;
    this.count++;
  }

  /** A table of twice the places; each entry finds its own anew. */
  private grow(): void {
    const [before, places] = [this.places, new Int32Array(this.places.length * 2)];
    const mask = places.length - 1;
    for (let old = 0; old < before.length; old += 2) {
      if (before[old] === 0) continue;
      const hash = before[old + 1]!;
      let place = firstPlace(hash, mask);
      while (places[place] !== 0) place = (place + 2) & mask;
      places[place] = before[old]!;
      places[place + 1] = hash;
    }
    this.places = places;
  }

  /** Calls back with the entries that another set does not have as they are: with its name, which is only made when it is asked for, and what each means. */
  lackedBy(other: NameSet, tell: (name: () => string, kind: number) => void): void {
    for (let place = 0; place < this.places.length; place += 2) {
      const entry = this.places[place]! - 1;
      if (entry < 0 || !this.kinds[entry]) continue;
      const kind = this.kinds[entry];
      if ((other.kindLike(this, entry, this.places[place + 1]!) & kind) !== kind) tell(() => this.nameAt(entry), kind);
    }
  }

  /** What the entry of the same letters means here; 0: there is none. */
  private kindLike(other: NameSet, entry: number, hash: number): number {
    const mask = this.places.length - 1;
    for (let place = firstPlace(hash, mask); ; place = (place + 2) & mask) {
      const at = this.places[place]!;
      if (at === 0) return 0;
      if (this.places[place + 1] === hash && this.isLike(at - 1, other, entry)) return this.kinds[at - 1]!;
    }
  }

  private isLike(own: number, other: NameSet, entry: number): boolean {
    const [start, theirs] = [this.starts[own]!, other.starts[entry]!];
    const length = this.endOf(own) - start;
    if (other.endOf(entry) - theirs !== length) return false;
    for (let i = 0; i < length; i++) if (this.letters[start + i] !== other.letters[theirs + i]) return false;
    return true;
  }
}

/** FNV-1a of 32 bits, letter by letter from the right. */
const SEED = 0x811c9dc5 | 0;
const mixed = (hash: number, code: number): number => Math.imul(hash ^ code, 0x01000193);
function hashOf(name: string): number {
  let hash = SEED;
  for (let at = name.length - 1; at >= 0; at--) hash = mixed(hash, name.charCodeAt(at));
  return hash;
}
/** The first place of a pair for a number: all its bits are mixed, since the low ones depend on low ones alone. */
function firstPlace(hash: number, mask: number): number {
  let mix = hash ^ (hash >>> 16);
  mix = Math.imul(mix, 0x85ebca6b);
  mix ^= mix >>> 13;
  mix = Math.imul(mix, 0xc2b2ae35);
  return ((mix ^ (mix >>> 16)) << 1) & mask;
}

const nextPower = (least: number): number => 2 ** Math.ceil(Math.log2(least));

function withRoom<T extends Uint8Array | Uint32Array>(from: T, room: number, Of: new (length: number) => T): T {
  const made = new Of(room);
  made.set(from);
  return made;
}
