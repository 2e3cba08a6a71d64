import { flaw, sameValue, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import { refuse, withSite, type EditContext, type Outcome, type RosterLookup } from '../edit';
import { siteGone } from '../kept-list';
import type { Intent, SitePart } from '../part';
import { uplinkSettings } from '../uplink/setting';
import type { PairOperation } from './operations';
import { LEAST_ADVERT, MOST_ADVERT, MOST_ROUTER, type Pair } from './pair';

/** Applies an edit of a site’s pair of gateways. */
export function applyPair(intent: Intent, operation: PairOperation, { roster }: EditContext): Outcome<PairOperation> {
  const site = intent.sites.get(operation.siteId);
  if (!site) return refuse(siteGone());
  const { pair: now = null, ...rest } = site;
  if (!sameValue(now, operation.from))
    return refuse(flaw('pair.changed', `Somebody changed the pair of gateways of ${site.name} meanwhile.`));
  const next = operation.to && normal(operation.to);
  const flaws = next ? checkPair(site, next, roster) : [];
  if (flaws.length > 0) return refuse(...flaws);
  return {
    ok: true,
    intent: withSite(intent, next ? { ...rest, pair: next } : rest),
    inverse: { ...operation, from: next, to: now },
  };
}

const normal = ({ tracks, power, ...rest }: Pair): Pair => ({
  ...rest,
  tracks: { first: [...new Set(tracks.first)].sort(), second: [...new Set(tracks.second)].sort() },
  power: { first: power.first.trim(), second: power.second.trim() },
});

function checkPair(site: SitePart, pair: Pair, roster: RosterLookup): Flaw[] {
  const flaws: Flaw[] = [];
  const { firstId, secondId, router, advert, tracks } = pair;
  if (firstId === secondId)
    flaws.push(flaw('pair.itself', 'A gateway cannot stand in for itself: choose another one.', 'secondId'));
  for (const [role, id] of [
    ['first', firstId],
    ['second', secondId],
  ] as const) {
    const device = roster(id);
    if (!device || device.siteId !== site.id || sheetFor(device).kind !== 'gateway') {
      flaws.push(flaw('pair.device-unknown', `Both have to be gateways of ${site.name}.`, `${role}Id`));
      continue;
    }
    const uplinks = new Set(uplinkSettings(site, device).map(({ port }) => port));
    const strange = tracks[role].find((port) => !uplinks.has(port));
    if (strange !== undefined)
      flaws.push(flaw('pair.tracked', `${strange} of ${device.name} is no uplink that is used.`, `tracks.${role}`));
  }
  if (!Number.isInteger(router) || router < 1 || router > MOST_ROUTER)
    flaws.push(flaw('pair.router', `The number of the virtual router is from 1 to ${MOST_ROUTER}.`, 'router'));
  if (!Number.isInteger(advert) || advert < LEAST_ADVERT || advert > MOST_ADVERT)
    flaws.push(
      flaw(
        'pair.advert',
        `They tell each other every ${LEAST_ADVERT / 100} to ${MOST_ADVERT / 100} seconds that they are there.`,
        'advert',
      ),
    );
  return flaws;
}
