import { parseIp } from '../address';
import { flaw, readColumns, type CheckedList, type CheckedRow, type ListColumn } from '../base';
import { apply } from './apply';
import type { RosterLookup } from './edit';
import type { Intent } from './part';
import type { Operation } from './registry';
import { viaWords, type RouteVia, type StaticRoute } from './route/route';

const KEYS = ['name', 'prefix', 'via', 'metric', 'tracks', 'off'] as const;
type Key = (typeof KEYS)[number];
const HEADINGS: Readonly<Record<Key, readonly string[]>> = {
  name: ['name', 'called'],
  prefix: ['for', 'prefix', 'destination', 'network'],
  via: ['goes', 'via', 'next hop', 'gateway'],
  metric: ['metric'],
  tracks: ['tracks', 'there while this answers', 'tracked'],
  off: ['off'],
};
/** Columns of a list of routes, in the order they are written. */
export const ROUTE_COLUMNS: readonly ListColumn<Key>[] = KEYS.map((key) => ({
  key,
  headings: HEADINGS[key],
  required: key === 'name' || key === 'prefix' || key === 'via',
}));

/** What a list of routes would do: an edit for each good row. */
export interface RouteListPreview extends CheckedList<StaticRoute> {
  readonly operations: readonly Operation[];
}

/** Routes as rows of text with a heading; reading them back gives the same routes. */
export const routeTable = (routes: readonly StaticRoute[]): string[][] => [
  ROUTE_COLUMNS.map(({ headings }) => headings[0]!),
  ...routes.map(({ name, prefix, via, metric, tracks, off }) => [
    ...[name, prefix, viaWords(via), metric ? `${metric}` : '', tracks ?? ''],
    off ? 'yes' : '',
  ]),
];

const yes = (text: string): boolean => /^(yes|y|true|1|x|on)$/i.test(text);

/**
 * Looks at a list of routes row by row. What is wrong with a row is said at the row; the others may be taken all the same.
 * @param of the gateway that they are to be of, with its uplinks by their titles, in lower case. @param newId makes the ids of the routes.
 */
export function checkRouteList(
  table: readonly (readonly string[])[],
  intent: Intent,
  of: { readonly siteId: string; readonly deviceId: string; readonly titles: ReadonlyMap<string, string> },
  roster: RosterLookup,
  newId: () => string,
): RouteListPreview {
  const { siteId, deviceId, titles } = of;
  const list = readColumns(table, ROUTE_COLUMNS);
  const operations: Operation[] = [];
  let now = intent;
  const rows = list.rows.map(({ line, values }): CheckedRow<StaticRoute> => {
    const { name, prefix, metric, tracks, off } = values;
    const number = metric === '' ? null : /^\d{1,9}$/.test(metric) ? Number(metric) : -1;
    const route: StaticRoute = {
      ...{ id: newId(), deviceId, name, prefix, via: viaOf(values.via, titles) },
      ...(number === null ? {} : { metric: number }),
      ...(tracks.trim() === '' ? {} : { tracks: tracks.slice(0, 60) }),
      ...(yes(off) ? { off: true } : {}),
    };
    // Rows are taken one after the other: one that repeats another is refused.
    const operation: Operation = { type: 'route.add', siteId, route };
    const done = apply(now, operation, roster);
    if (!done.ok)
      return {
        ...{ line, values, good: null },
        flaws: done.flaws.map(({ code, message, field }) => flaw(code, message, field)),
      };
    now = done.intent;
    operations.push(operation);
    return { line, values, good: route, flaws: [] };
  });
  return { rows, flaws: list.flaws, operations };
}

/** Where a route leads, as people write it: `nowhere`, an address, or an uplink by its port or its title. */
function viaOf(text: string, titles: ReadonlyMap<string, string>): RouteVia {
  const said = text.trim();
  if (/^(nowhere|discard|blackhole|drop)$/i.test(said)) return { kind: 'nowhere' };
  const port = titles.get(said.toLowerCase());
  if (port !== undefined) return { kind: 'uplink', port };
  return parseIp(said) !== null || /^[\d.:/]*$/.test(said)
    ? { kind: 'address', address: said.slice(0, 60) }
    : { kind: 'uplink', port: said.slice(0, 40) };
}
