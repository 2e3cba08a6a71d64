import { randomUUID } from 'node:crypto';
import { findingsOf, outcomeAt, type Beyond } from '@iron-lattice/core/assess';
import { composeBranches, type BranchElsewhere, type BranchFindings, type BranchSite } from '@iron-lattice/core/intake';
import { resolve, sitesBeyond, touchedSites, type Intent, type RosterDevice } from '@iron-lattice/core/intent';
import { countryByName } from '@iron-lattice/core/regulation';
import { compileSite } from '@iron-lattice/core/rollout';
import { readEstate, readSite } from '../../intent/sent-input';
import { curveKeys } from '../../platform/curve-keys';
import type { ComposeBranches, ComposedOutcome } from './composed';

/** Composes branches, and works out what would be found at each once its boxes are there. */
export function composeWithFindings(input: ComposeBranches): ComposedOutcome {
  const { asked, roster, models, serials, names, heard, country, findings } = input;
  const sites = input.sites.map(readSite);
  const intent: Intent = { estate: readEstate(input.estate), sites: new Map(sites.map((site) => [site.id, site])) };
  const keys: Record<string, string> = {};
  const { after, ...composed } = composeBranches(asked, {
    ...{ intent, roster, country, countryOf: countryByName, idFor: randomUUID },
    known: { models: new Set(models), serials: new Map(serials), names: new Map(names) },
    heard: new Map(heard),
    keyFor: () => {
      const [secret, { own, public: shown }] = [randomUUID(), curveKeys()];
      keys[secret] = own;
      return { secret, public: shown };
    },
  });
  const mine = new Set(composed.made.sites.map(({ part }) => part.id));
  const touched = touchedSites(intent, after).filter((id) => !mine.has(id));
  const tags = new Map(composed.made.sites.map(({ part, wish }) => [part.id, wish.tags]));
  const expected = composed.made.expected.map(({ id, siteId, name, serial, model }): RosterDevice => ({
    ...{ id, siteId, name: name!, serial, model, expected: true },
  }));
  const bySite = new Map<string, RosterDevice[]>();
  for (const device of [...roster, ...expected])
    bySite.set(device.siteId, [...(bySite.get(device.siteId) ?? []), device]);
  const found = findings ? [...mine].flatMap((siteId) => findingsAt(after, siteId, bySite, tags.get(siteId)!)) : [];
  const begun = findings ? begunAt(input, after, composed.made.sites, expected) : [];
  return {
    composed: { ...composed, after: { estate: after.estate } },
    keys,
    findings: found,
    begun,
    touched: [...touched],
  };
}

/** Boxes that call are taken in, and told what is live, as soon as a branch is made: what the draft tells them then. */
function begunAt(
  { calling, live }: ComposeBranches,
  { estate, sites }: Intent,
  founded: readonly BranchSite[],
  expected: readonly RosterDevice[],
): BranchElsewhere[] {
  const ids = new Set(calling);
  const there = expected.flatMap(({ expected: _expected, ...device }) => (ids.has(device.id) ? [device] : []));
  return founded.flatMap(({ part }): BranchElsewhere[] => {
    const roster = there.filter(({ siteId }) => siteId === part.id);
    if (roster.length === 0) return [];
    const told = Object.fromEntries(compileSite(resolve(readEstate(live), part), roster));
    const { changes } = outcomeAt({ estate, site: sites.get(part.id)!, roster, links: [], told });
    return [{ siteId: part.id, name: part.name, devices: changes.length }];
  });
}

function findingsAt(
  intent: Intent,
  siteId: string,
  roster: ReadonlyMap<string, readonly RosterDevice[]>,
  tags: readonly string[],
): BranchFindings[] {
  const site = intent.sites.get(siteId)!;
  const beyond: Beyond = Object.fromEntries(
    sitesBeyond(intent, siteId).map((id) => [id, { site: intent.sites.get(id)!, roster: roster.get(id) ?? [] }]),
  );
  const found = findingsOf({
    ...{ estate: intent.estate, site, roster: roster.get(siteId) ?? [], links: [], tags, beyond },
  });
  if (found.length === 0) return [];
  return [{ siteId, name: site.name, found: found.map(({ severity, message }) => ({ severity, message })) }];
}
