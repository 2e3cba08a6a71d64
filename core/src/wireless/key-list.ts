import { drawKey, flaw, readColumns, type CheckedList, type CheckedRow, type Flaw, type ListColumn } from '../base';
import { MOST_KEYS, newKeysFlaws, plainMac, type NewRingKey, type RingKeyFields } from './ring';

const HEADINGS = {
  name: ['name', 'for', 'who'],
  key: ['key', 'passphrase', 'psk'],
  segment: ['segment', 'network'],
  accessClass: ['class', 'access class'],
  macs: ['bound to', 'mac', 'macs', 'mac addresses'],
  most: ['devices', 'most devices'],
  from: ['from', 'start'],
  until: ['until', 'end'],
  note: ['note', 'notes'],
} as const;
type Column = keyof typeof HEADINGS;

/** Columns of a list of keys, in the order they are written. */
export const KEY_COLUMNS: readonly ListColumn<Column>[] = Object.entries(HEADINGS).map(([key, headings]) => ({
  ...{ key: key as Column, headings },
  required: key === 'name',
}));

/** Keys as rows of text with a heading; reading them back gives the same keys. */
export const keyTable = (keys: readonly (RingKeyFields & { readonly key: string })[]): string[][] => [
  KEY_COLUMNS.map(({ headings }) => headings[0]!),
  ...keys.map((key) => [
    ...[key.name, key.key, key.segment ?? '', key.accessClass ?? '', key.macs.join(' ')],
    ...[key.most === null ? '' : String(key.most)],
    ...[key.from ?? '', key.until ?? '', key.note],
  ]),
];

/** Characters of a key that is drawn where a row has none. */
const DRAWN = 12;

/**
 * Looks at a list of keys row by row; an empty key is drawn.
 * @param table rows of cells, as text.
 */
export function checkKeyList(
  table: readonly (readonly string[])[],
  random: (count: number) => Uint32Array,
): CheckedList<NewRingKey> {
  const { rows, flaws } = readColumns(table, KEY_COLUMNS);
  if (rows.length > MOST_KEYS)
    return { rows: [], flaws: [flaw('ring.many', `A ring has ${MOST_KEYS} keys at most; these are ${rows.length}.`)] };
  const keys = rows.map(({ values }) => keyOf(values, random));
  const wrong = new Map<number, Flaw[]>();
  for (const { row, ...each } of newKeysFlaws(keys, Infinity)) wrong.set(row, [...(wrong.get(row) ?? []), each]);
  return {
    flaws,
    rows: rows.map(({ line, values }, row): CheckedRow<NewRingKey> => {
      const key = keys[row]!;
      const found = wrong.get(row) ?? [];
      return { line, values: { ...values, key: key.key }, good: found.length === 0 ? key : null, flaws: found };
    }),
  };
}

function keyOf(values: Readonly<Record<Column, string>>, random: (count: number) => Uint32Array): NewRingKey {
  const most = values.most === '' ? null : Number(values.most);
  return {
    name: values.name,
    key: values.key === '' ? drawKey(DRAWN, 'clear', random) : values.key,
    segment: values.segment || null,
    accessClass: values.accessClass || null,
    macs: values.macs.split(/[\s,;]+/).flatMap((text) => (text === '' ? [] : [plainMac(text) ?? text])),
    most: most !== null && Number.isNaN(most) ? -1 : most,
    ...{ from: values.from || null, until: values.until || null, note: values.note },
  };
}
