import { flaw, readColumns, type CheckedList, type CheckedRow, type Flaw, type ListColumn } from '../base';
import { readTags } from './serial-list';
import { proposeSiteCode } from './site-code';
import { isTimeZone, type NewSite } from './site-founding';

type Column = 'name' | 'country' | 'timeZone' | 'address' | 'tags' | 'code';

/** Columns of a list of sites, in the order of the sample file. */
export const SITE_COLUMNS: readonly ListColumn<Column>[] = [
  { key: 'name', headings: ['name', 'site'], required: true },
  { key: 'country', headings: ['country'], required: true },
  { key: 'timeZone', headings: ['time zone', 'timezone', 'zone'], required: true },
  { key: 'address', headings: ['address', 'postal address'], required: false },
  { key: 'tags', headings: ['tags', 'tag'], required: false },
  { key: 'code', headings: ['short form', 'code'], required: false },
];

/** The sample file people can download. */
export const SITE_SAMPLE = [
  SITE_COLUMNS.map((column) => column.headings[0]!),
  ['Harrow Point', 'Ireland', 'Europe/Dublin', '2 Slipway, Harrow Point', 'terminal; north', 'hp'],
  ['Saltmarsh Pier', 'IE', 'Europe/Dublin', '', 'pier', ''],
] as const;

const MOST_ROWS = 2000;

/**
 * Checks a list of sites row by row against the estate's and against itself; short forms that are not given are
 * derived. Linear but for the derivation.
 * @param countryOf the two letters of a country typed by name or code; undefined when unknown.
 */
export function checkSiteList(
  table: readonly (readonly string[])[],
  known: readonly { readonly name: string; readonly code: string }[],
  countryOf: (text: string) => string | undefined,
): CheckedList<NewSite> {
  if (table.length > MOST_ROWS + 1)
    return { rows: [], flaws: [flaw('list.long', `A list has ${MOST_ROWS} rows at most; split it.`)] };
  const list = readColumns(table, SITE_COLUMNS);
  if (list.flaws.length === 0 && list.rows.length === 0)
    return { rows: [], flaws: [flaw('list.empty', 'The list is empty. Put one site on each line.')] };
  const names = new Map(known.map((site) => [site.name.toLowerCase(), 'is already a site of the estate']));
  const codes = new Set(known.map((site) => site.code));
  for (const { values } of list.rows) if (values.code !== '') codes.add(values.code.toLowerCase());
  const typed = new Map<string, number>();
  const rows = list.rows.map(({ line, values }): CheckedRow<NewSite> => {
    const flaws: Flaw[] = [];
    const key = values.name.toLowerCase();
    if (key === '') flaws.push(flaw('site.name-empty', 'The name is missing.', 'name'));
    else if (values.name.length > 60) flaws.push(flaw('site.name-long', 'A name has 60 characters at most.', 'name'));
    else if (names.has(key)) flaws.push(flaw('site.name-taken', `“${values.name}” ${names.get(key)!}.`, 'name'));
    else names.set(key, `is already on line ${line} of this list`);
    const country = countryOf(values.country);
    if (country === undefined)
      flaws.push(
        flaw('site.country', `“${values.country}” is no country we know. Give its name or its two letters.`, 'country'),
      );
    if (!isTimeZone(values.timeZone))
      flaws.push(flaw('site.time-zone', `“${values.timeZone}” is not a time zone, such as Europe/Dublin.`, 'timeZone'));
    let code = values.code.toLowerCase();
    if (code === '') {
      code = proposeSiteCode(values.name, codes);
      codes.add(code);
    } else {
      const before = typed.get(code);
      if (!/^[a-z0-9]{2,8}$/.test(code))
        flaws.push(flaw('site.code', 'A short form has 2 to 8 letters or digits.', 'code'));
      else if (before !== undefined)
        flaws.push(flaw('site.code-taken', `“${code}” is already on line ${before} of this list.`, 'code'));
      else if (known.some((site) => site.code === code))
        flaws.push(flaw('site.code-taken', `“${code}” is the short form of another site.`, 'code'));
      typed.set(code, line);
    }
    if (flaws.length > 0) return { line, values, good: null, flaws };
    const { name, timeZone, address } = values;
    return {
      line,
      values,
      flaws,
      good: { name, code, country: country!, timeZone, address: address.slice(0, 200), tags: readTags(values.tags) },
    };
  });
  return { rows, flaws: list.flaws };
}
