import { drawKey, type KeyAlphabet } from '@iron-lattice/core/base';
import { plainMac, type RingKeyFields } from '@iron-lattice/core/wireless';

/** A key as it is typed. */
export interface KeyText {
  readonly name: string;
  /** Empty keeps the key there is. */
  readonly key: string;
  readonly segment: string | null;
  readonly accessClass: string | null;
  /** MAC addresses, parted by blanks or commas. */
  readonly macs: string;
  readonly most: string;
  readonly from: string;
  readonly until: string;
  readonly note: string;
}

const NEW_KEY = (): KeyText => ({
  ...{ name: '', key: drawn(), segment: null, accessClass: null, macs: '', most: '', from: '', until: '', note: '' },
});

export function textOf(key: RingKeyFields | null): KeyText {
  if (!key) return NEW_KEY();
  const { name, segment, accessClass, macs, most, from, until, note } = key;
  return {
    ...{ name, key: '', segment, accessClass, macs: macs.join(' '), most: most === null ? '' : String(most) },
    ...{ from: from ?? '', until: until ?? '', note },
  };
}

/** What was typed as the fields of a key; what cannot be read stays, to be refused with a word. */
export function fieldsOf({ name, segment, accessClass, macs, most, from, until, note }: KeyText): RingKeyFields {
  const count = most.trim();
  return {
    ...{ name: name.trim(), segment, accessClass, note: note.trim() },
    macs: macs.split(/[\s,;]+/).flatMap((text) => (text === '' ? [] : [plainMac(text) ?? text])),
    most: count === '' ? null : /^\d{1,6}$/.test(count) ? Number(count) : -1,
    ...{ from: from.trim() || null, until: until.trim() || null },
  };
}

const random = (count: number): Uint32Array => crypto.getRandomValues(new Uint32Array(count));

/** A key drawn at random. */
export const drawn = (length = 12, alphabet: KeyAlphabet = 'clear'): string => drawKey(length, alphabet, random);
