import { TUNNEL_ASKS_SECONDS, TUNNEL_LOSSES } from '../document';
import { canMeet, joinedEnds, overlayAt, type JoinedEstate, type KeptGuarantee } from '../intent';
import { rehearseJoined, type JoinedMishap } from '../routing';
import { hubSets, type AcrossStanding } from './hub-sets';

/** What fails does so then, and for so long; it is looked at until all is as before, in seconds. */
const [FAILS_AT, BACK_AT, UNTIL] = [10, 70, 130];

/** A failure between two sites. */
interface Failing {
  readonly what: string;
  readonly mishaps: readonly JoinedMishap[];
}

/**
 * Whether nobody waits longer than a guarantee allows while hubs between two sites fail, or the tunnel of either is cut, and while they come back: played
 * second by second, with questions falling as badly as they can.
 */
export function waitsAcross(
  { kind, fails, within }: KeptGuarantee,
  estate: JoinedEstate,
  here: string,
  there: string,
): AcrossStanding {
  if (kind !== 'always' || !fails || typeof within !== 'number') return { state: 'holds' };
  const ends = joinedEnds(estate);
  const { members = [], joins = {} } = estate;
  const nameOf = (id: string): string => joins[id]?.name ?? '';
  const own = (siteId: string): string => members.find((each) => each.siteId === siteId)?.id ?? '';
  const [from, to] = [own(here), own(there)];
  const sites = hubSets(estate, here, there, fails).map((set): Failing => ({
    what: `${set.map(({ id }) => nameOf(id)).join(' and ')} ${set.length > 1 ? 'fail' : 'fails'}`,
    mishaps: set.map(({ id }) => ({ what: 'site', siteId: id, from: FAILS_AT, to: BACK_AT })),
  }));
  // Of the tunnels of a hub only those matter that lead to another hub, or to the other end.
  const near = new Map(
    ends.filter(({ id, role }) => role === 'hub' || id === from || id === to).map(({ id, name }) => [name, id]),
  );
  const tunnels = [
    [here, from],
    [there, to],
  ].flatMap(([siteId, end]) =>
    (overlayAt(estate, siteId!)?.peers ?? []).flatMap(({ name }) => {
      const other = near.get(name);
      return other === undefined ? [] : [[end!, other] as const];
    }),
  );
  const cut = [...new Map(tunnels.map((pair) => [[...pair].sort().join(' '), pair])).values()].map(
    ([a, b]): Failing => ({
      what: `the tunnel between ${nameOf(a)} and ${nameOf(b)} is cut`,
      mishaps: [{ what: 'tunnel', siteId: a, otherId: b, from: FAILS_AT, to: BACK_AT }],
    }),
  );
  for (const { what, mishaps } of [...sites, ...cut]) {
    const { longest } = rehearseJoined(ends, { from, to }, mishaps, {
      ...{ seconds: UNTIL, asks: TUNNEL_ASKS_SECONDS, losses: TUNNEL_LOSSES, phase: 'worst' },
      never: (a, b) => !canMeet(joins[a], joins[b]),
    });
    if (longest > within)
      return {
        state: 'broken',
        why: `When ${what}, nothing gets there and back for ${longest >= BACK_AT - FAILS_AT ? 'as long as that lasts' : `${Math.ceil(longest)} s`}.`,
      };
  }
  return { state: 'holds' };
}
