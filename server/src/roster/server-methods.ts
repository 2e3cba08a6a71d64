import type { ServerMethods } from '@iron-lattice/core/assess';
import type { Report } from '@iron-lattice/core/line';

/** How many clients of a device say who they are, by method and server, such as `peap Quay`; `refused Quay`: it wants another. */
export type MethodCounts = Readonly<Record<string, number>>;

/** Ways to say who one is by which the password itself goes nowhere. */
const UNTOLD = ['peap', 'eap-tls'] as const;

/** The same of a whole report. What of it is in SQL for many devices at once has to be as here. */
export function methodsOf({ clients, wired = [], unknown = [], refused = [] }: Report): MethodCounts {
  const counts: Record<string, number> = {};
  const count = (key: string): number => (counts[key] = (counts[key] ?? 0) + 1);
  for (const { entered } of [...clients, ...wired]) if (entered) count(`${entered.method} ${entered.server}`);
  for (const { why, server } of [...unknown, ...refused])
    if (why === 'method' && server !== undefined) count(`refused ${server}`);
  return counts;
}

/** The counts of a report as a column of many devices: few, however many clients there are. */
export const METHODS_SQL = `(SELECT jsonb_object_agg(k, n) FROM (
  SELECT k, count(*) AS n FROM (
    SELECT concat(e->>'method', ' ', e->>'server') AS k FROM jsonb_path_query(report, '$.clients[*].entered') e
    UNION ALL SELECT concat(e->>'method', ' ', e->>'server') FROM jsonb_path_query(report, '$.wired[*].entered') e
    UNION ALL SELECT concat('refused ', e->>'server') FROM jsonb_path_query(report, '$.unknown[*] ? (@.why == "method" && exists(@.server))') e
    UNION ALL SELECT concat('refused ', e->>'server') FROM jsonb_path_query(report, '$.refused[*] ? (@.why == "method" && exists(@.server))') e
  ) said GROUP BY k) counted)`;

/** What clients of several devices make of each server; of those of which nothing is worth telling none. In a stable order. */
export function methodsAmong(devices: readonly { readonly methods: MethodCounts | null }[]): ServerMethods[] {
  const found = new Map<string, Record<string, number>>();
  for (const { methods } of devices)
    for (const [key, count] of Object.entries(methods ?? {})) {
      const [method, server] = [key.slice(0, key.indexOf(' ')), key.slice(key.indexOf(' ') + 1)];
      const counts = found.get(server) ?? {};
      found.set(server, { ...counts, [method]: (counts[method] ?? 0) + count });
    }
  return [...found]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .flatMap(([server, counts]): ServerMethods[] => {
      const other = UNTOLD.flatMap((method) => (counts[method] ? [{ method, count: counts[method] }] : []))[0] ?? null;
      const [refused, pap] = [counts['refused'] ?? 0, counts['eap-ttls'] ?? 0];
      return refused > 0 || (pap > 0 && other) ? [{ server, refused, pap, other }] : [];
    });
}
