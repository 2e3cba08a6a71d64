import type { JoinedEstate, Member } from '../intent';

/** How a guarantee stands that reaches from one site to another. */
export interface AcrossStanding {
  readonly state: 'holds' | 'broken' | 'void';
  readonly packet?: string;
  readonly ruleId?: string;
  readonly why?: string;
  readonly at?: string;
}

/** The hubs that fail, one or two at once: of all hubs only those matter that one of the two sites is joined to, since others are on no way between them. */
export function hubSets(
  { members = [] }: JoinedEstate,
  here: string,
  there: string,
  fails: 1 | 2,
): readonly (readonly Member[])[] {
  const ends = new Set([here, there]);
  const own = members.filter(({ siteId }) => ends.has(siteId));
  const near = new Set(own.flatMap(({ hubs }) => hubs));
  const hubs = members.filter(({ id, siteId, role }) => role === 'hub' && near.has(id) && !ends.has(siteId));
  return hubs.flatMap((one, i) => [[one], ...(fails === 2 ? hubs.slice(i + 1).map((other) => [one, other]) : [])]);
}
