import type { ServerHealth } from '@iron-lattice/core/entry';
import type { RosterService } from '../roster/roster.service';

/** How servers fare, as devices of a site that asked them lately say; those that some device has no answer of first. */
export async function serverHealth(rosters: RosterService, siteId: string): Promise<ServerHealth[]> {
  const found = new Map<string, { answers: number; silentFor: string[]; since: number | null }>();
  for (const { name, serial, online, report } of await rosters.devices(siteId))
    for (const server of online ? (report?.servers ?? []) : []) {
      const one = found.get(server.name) ?? { answers: 0, silentFor: [], since: null };
      found.set(server.name, one);
      if (server.answers) one.answers++;
      else {
        one.silentFor.push(name ?? serial);
        one.since = Math.min(one.since ?? Infinity, server.since);
      }
    }
  return [...found]
    .map(([name, { silentFor, ...each }]): ServerHealth => ({ name, ...each, silentFor: [...silentFor].sort() }))
    .sort((a, b) => b.silentFor.length - a.silentFor.length || (a.name < b.name ? -1 : 1));
}
