import type { KeyAlphabet } from '@iron-lattice/core/base';
import { isPattern, newKeysFlaws, patternAt, type NewRingKey } from '@iron-lattice/core/wireless';
import { drawn } from './key-text';

/** Where keys that are made together lead. */
export type Leads = 'own' | 'class' | 'one' | 'each' | 'list';

/** Many keys as they are typed. */
export interface ManyText {
  readonly count: string;
  readonly pattern: string;
  readonly first: string;
  readonly length: string;
  readonly alphabet: KeyAlphabet;
  readonly leads: Leads;
  /** The class of all. */
  readonly accessClass: string;
  /** The segment of all. */
  readonly one: string;
  /** Name of each key's own segment, and the VLAN ID that the number is added to. */
  readonly segments: string;
  readonly vlan: string;
  /** Bits of each new subnet, or the recipe that says it. */
  readonly bits: string;
  readonly recipeId: string | null;
  /** A segment a line, and its VLAN ID where it is new. */
  readonly list: string;
  readonly most: string;
  readonly until: string;
}

export const NEW_KEYS: ManyText = {
  ...{ count: '10', pattern: 'Berth {n}', first: '1', length: '12', alphabet: 'clear', leads: 'own', one: '' },
  accessClass: '',
  ...{ segments: 'Berth {n}', vlan: '100', bits: '26', recipeId: null, list: '', most: '', until: '' },
};

/** What is wrong with a field, by its name. */
export type ManyFlaws = Partial<Record<keyof ManyText, string>>;

/** A segment that a key is to lead to. */
export interface WantedSegment {
  readonly name: string;
  /** Null: it has to be there. */
  readonly vlan: number | null;
}

/** A key to be made, with the segment it is to lead to; null: the SSID's own. */
export interface PlannedKey {
  readonly name: string;
  readonly wanted: WantedSegment | null;
}

const whole = (text: string): number | null => (/^\d{1,5}$/.test(text.trim()) ? Number(text) : null);

/** What is wrong with what was typed. */
export function flawsOf(text: ManyText, mostKeys: number): ManyFlaws {
  const { count, pattern, first, length, leads, vlan, bits, list, most, until, recipeId, segments } = text;
  const flaws: ManyFlaws = {};
  const number = whole(count);
  if (number === null || number < 1 || number > mostKeys) flaws.count = `1 to ${mostKeys.toLocaleString('en')}.`;
  if (!isPattern(pattern)) flaws.pattern = 'Say {n} where the number goes, or {nnn} for leading zeros.';
  if (whole(first) === null) flaws.first = 'A whole number.';
  const letters = whole(length);
  if (letters === null || letters < 8 || letters > 63) flaws.length = 'A key has 8 to 63 characters.';
  if (most.trim() !== '' && !(whole(most)! >= 1)) flaws.most = 'A whole number from 1 on, or nothing.';
  const [bad] = newKeysFlaws([{ ...keyOf('x', 'xxxxxxxx', null, text) }]).filter(({ field }) => field === 'until');
  if (until.trim() !== '' && bad) flaws.until = bad.message;
  if (leads === 'each') {
    if (!isPattern(segments)) flaws.segments = 'Say {n} where the number goes.';
    const base = whole(vlan);
    const last = (base ?? 0) + (whole(first) ?? 0) + (number ?? 0) - 1;
    if (base === null) flaws.vlan = 'A whole number.';
    else if (last > 4094) flaws.vlan = `The last would be VLAN ${last}: there are 4,094.`;
  }
  if (leads === 'class' && text.accessClass === '') flaws.accessClass = 'Choose the class.';
  if (leads !== 'own' && leads !== 'class' && recipeId === null && !(whole(bits)! >= 16 && whole(bits)! <= 29))
    flaws.bits = '16 to 29.';
  if (leads === 'list' && number !== null) {
    const rows = listed(list);
    if (rows.length !== number) flaws.list = `${rows.length} segments for ${number} keys: say one for each.`;
  }
  return flaws;
}

/** Segments of a list: a name a line, which may end in a number; behind a comma the VLAN ID of one that is new. */
export const listed = (text: string): WantedSegment[] =>
  text
    .split(/[\n;]+/)
    .map((line) => line.trim())
    .filter((line) => line !== '')
    .map((line) => {
      const found = /^(.*?)(?:\s*,|\s+VLAN)\s*(\d{1,4})$/i.exec(line);
      return found?.[1] ? { name: found[1].trim(), vlan: Number(found[2]) } : { name: line, vlan: null };
    });

/** The keys that it comes to. */
export function planned(text: ManyText): PlannedKey[] {
  const [count, first] = [whole(text.count) ?? 0, whole(text.first) ?? 0];
  const rows = text.leads === 'list' ? listed(text.list) : [];
  return Array.from({ length: count }, (_, i): PlannedKey => {
    const n = first + i;
    const name = patternAt(text.pattern, n);
    if (text.leads === 'own' || text.leads === 'class') return { name, wanted: null };
    if (text.leads === 'one') return { name, wanted: text.one === '' ? null : { name: text.one, vlan: null } };
    if (text.leads === 'list') return { name, wanted: rows[i] ?? null };
    return { name, wanted: { name: patternAt(text.segments, n), vlan: (whole(text.vlan) ?? 0) + n } };
  });
}

function keyOf(name: string, key: string, segment: string | null, { most, until, ...text }: ManyText): NewRingKey {
  const accessClass = text.leads === 'class' ? text.accessClass : null;
  return {
    ...{ name, key, segment, accessClass, macs: [], from: null, note: '' },
    ...{ most: most.trim() === '' ? null : Number(most), until: until.trim() || null },
  };
}

/** The keys themselves, drawn. */
export const drawAll = (keys: readonly PlannedKey[], text: ManyText): NewRingKey[] =>
  keys.map(({ name, wanted }) => keyOf(name, drawn(Number(text.length), text.alphabet), wanted?.name ?? null, text));
