import { flaw, readColumns, readLasts, type CheckedList, type CheckedRow, type Flaw, type ListColumn } from '../base';
import { isDay } from '../rules';
import { isCode, plainCode } from './code-strength';
import { dayWindow } from './day-window';
import { MOST_CODE_DEVICES, MOST_CODE_NAME, MOST_NEW_CODES } from './guests.contract';

const HEADINGS = {
  name: ['for', 'name', 'what for', 'guest'],
  code: ['code', 'visit code'],
  lasts: ['lasts', 'duration', 'for how long'],
  most: ['devices', 'most devices', 'devices at most'],
  useBy: ['use by', 'to be used by', 'until'],
  sites: ['sites', 'site', 'opens'],
} as const;
type Column = keyof typeof HEADINGS;

/** Columns of a list of visit codes, in the order they are written. */
export const CODE_COLUMNS: readonly ListColumn<Column>[] = Object.entries(HEADINGS).map(([key, headings]) => ({
  ...{ key: key as Column, headings },
  required: key === 'name',
}));

/** A visit code of a list: from its first use, as all of lists are. */
export interface ListedCode {
  readonly name: string;
  /** As it is kept; null: one is drawn. */
  readonly code: string | null;
  readonly minutes: number;
  /** Until when it has to be used first, ISO 8601; null: whenever. */
  readonly useBy: string | null;
  /** Most devices; null: any number. */
  readonly most: number | null;
  /** Sites that it opens; null: wherever the portal is. */
  readonly siteIds: readonly string[] | null;
}

/** What a list of codes is read by. */
export interface CodeListMeans {
  /** Minutes of a code that does not say. */
  readonly visit: number;
  /** Minutes that a visit lies between. */
  readonly least: number;
  readonly longest: number;
  /** Ids of sites, by their names and short names in lower case. */
  readonly sites: Readonly<Record<string, string>>;
  /** Time zones of sites by their ids, and the one of a code that opens all of them. */
  readonly zones: Readonly<Record<string, string>>;
  readonly zone: string;
  /** Milliseconds since 1970. */
  readonly now: number;
}

/** Looks at a list of visit codes row by row. @param table rows of cells, as text. */
export function checkCodeList(table: readonly (readonly string[])[], means: CodeListMeans): CheckedList<ListedCode> {
  const { rows, flaws } = readColumns(table, CODE_COLUMNS);
  if (rows.length > MOST_NEW_CODES) {
    const message = `${MOST_NEW_CODES.toLocaleString('en')} codes are made at once at most; these are ${rows.length}.`;
    return { rows: [], flaws: [flaw('code.many', message)] };
  }
  const seen = new Map<string, number>();
  return {
    flaws,
    rows: rows.map(({ line, values }): CheckedRow<ListedCode> => {
      const { good, found } = readRow(values, means);
      const before = good.code === null ? undefined : seen.get(good.code);
      if (good.code !== null && before === undefined) seen.set(good.code, line);
      if (before !== undefined) found.push(flaw('code.twice', `Line ${before} has this code already.`, 'code'));
      return { line, values, good: found.length === 0 ? good : null, flaws: found };
    }),
  };
}

function readRow(
  values: Readonly<Record<Column, string>>,
  { visit, least, longest, sites, zones, zone, now }: CodeListMeans,
): { readonly good: ListedCode; readonly found: Flaw[] } {
  const found: Flaw[] = [];
  const say = (field: Column, message: string): void => void found.push(flaw(`code.${field}`, message, field));
  const name = values.name.trim();
  if (name === '') say('name', 'Say what it is for.');
  else if (name.length > MOST_CODE_NAME) say('name', `${MOST_CODE_NAME} characters at most.`);
  const code = values.code.trim() === '' ? null : plainCode(values.code);
  if (code !== null && !isCode(code)) say('code', '6 to 16 of A–Z and 2–9, none of I, L, O, U, 0 and 1.');
  const minutes = values.lasts.trim() === '' ? visit : readLasts(values.lasts);
  if (!(minutes >= least && minutes <= longest) || !Number.isInteger(minutes))
    say('lasts', 'Such as 90 min, 8 h or 2 d: five minutes at least, 31 days at most.');
  const any = /^(any|all|\*)$/i.test(values.most.trim());
  const most = any ? null : values.most.trim() === '' ? 1 : Number(values.most);
  if (most !== null && !(Number.isInteger(most) && most >= 1 && most <= MOST_CODE_DEVICES))
    say('most', `From 1 to ${MOST_CODE_DEVICES}, or any.`);
  const named = values.sites
    .split(/[;\n|]/)
    .map((each) => each.trim())
    .filter((each) => each !== '');
  const unknown = named.find((each) => !Object.hasOwn(sites, each.toLowerCase()));
  if (unknown !== undefined) say('sites', `There is no site “${unknown.slice(0, 60)}”; several are parted by ;.`);
  const siteIds = [...new Set(named.flatMap((each) => sites[each.toLowerCase()] ?? []))];
  const day = values.useBy.trim();
  // Until the day is over wherever the code opens something.
  const ends = isDay(day)
    ? Math.max(
        ...(siteIds.length > 0 ? siteIds.map((id) => zones[id] ?? zone) : [zone]).map((at) => dayWindow(at, day).end),
      )
    : NaN;
  if (day !== '') {
    if (Number.isNaN(ends)) say('useBy', 'A day like 2026-12-31.');
    else if (ends <= now) say('useBy', 'That day is past already.');
  }
  return {
    good: {
      ...{ name, code, minutes, most },
      useBy: Number.isNaN(ends) ? null : new Date(ends).toISOString(),
      siteIds: named.length === 0 ? null : siteIds,
    },
    found,
  };
}
