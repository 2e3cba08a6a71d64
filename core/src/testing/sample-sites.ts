import type { Intent, Member, Operation, RosterDevice, SitePart } from '../intent';
import { sampleId, sampleSegment } from './sample-site';

/** Sites as a test of what joins them wants them: a gateway each, segments of their own, uplinks as they come. */
export interface SampleSites {
  readonly intent: Intent;
  readonly roster: readonly RosterDevice[];
  /** Ids by the site’s place in the list. */
  readonly siteIds: readonly string[];
}

/** Makes sites with numbers from 0, at most 250 in each second octet of their own. */
export function sampleSites(options: { readonly sites: number; readonly segments: number }): SampleSites {
  const { sites: count, segments: each } = options;
  const siteIds = Array.from({ length: count }, (_, i) => sampleId(9, i));
  const sites = new Map(
    siteIds.map((id, i): [string, SitePart] => {
      // 10.0.0.0/8 holds 4096 of them with 16 segments each.
      const segments = Array.from({ length: each }, (_, j) => {
        const base = `10.${Math.floor(i / 16)}.${(i % 16) * 16 + j}`;
        return {
          ...sampleSegment(j),
          ...{ id: sampleId(1, i * 1000 + j), subnet: `${base}.0/24`, gateway: `${base}.1` },
          addresses: { first: `${base}.20`, last: `${base}.250`, leaseSeconds: 28_800 },
        };
      });
      const site: SitePart = {
        ...{ kind: 'site', id, name: `Site ${i}`, code: `s${i}`, country: 'IE', timeZone: 'Europe/Dublin' },
        ...{ managementId: segments[0]!.id, segments, ports: {} },
      };
      return [id, site];
    }),
  );
  const roster = siteIds.map((siteId, i): RosterDevice => ({
    ...{ id: sampleId(2, i), siteId, name: `s${i}-gw-01`, serial: `GW-${i}`, model: 'GW-4' },
  }));
  return {
    intent: { estate: { kind: 'estate', id: sampleId(8, 0), name: 'Estate', ssids: [] }, sites },
    roster,
    siteIds,
  };
}

/** A key that looks like one, for the nth. */
const keyOf = (n: number): string => `${n.toString(36).padStart(42, 'A')}A=`;

/** The nth sample site as a member. */
export const sampleMember = (n: number, more: Partial<Member> = {}): Member => ({
  ...{ id: sampleId(20, n), siteId: sampleId(9, n), deviceId: sampleId(2, n), role: 'spoke', hubs: [], direct: [] },
  ...{ segments: 'all', prefixes: [], takes: null, leaves: 'here', found: {} },
  key: { secret: sampleId(21, n), public: keyOf(n) },
  ...more,
});

/** Edits that join sample sites: the first ones as hubs, which are found at public addresses, the others as their spokes. */
export const sampleJoin = (hubs: number, spokes: number, spans: readonly string[] = ['10.0.0.0/8']): Operation[] => [
  { type: 'overlay.set', from: null, to: { spans } },
  ...Array.from({ length: hubs }, (_, n): Operation => ({
    type: 'member.add',
    member: sampleMember(n, { role: 'hub', found: { wan1: `203.0.113.${n + 1}` } }),
  })),
  ...Array.from({ length: spokes }, (_, i): Operation => ({
    type: 'member.add',
    member: sampleMember(hubs + i, { hubs: Array.from({ length: hubs }, (_, n) => sampleId(20, n)) }),
  })),
];
