import { randomUUID } from 'node:crypto';
import { findingsOf, type Beyond } from '@iron-lattice/core/assess';
import { composeBranches, type BranchFindings } from '@iron-lattice/core/intake';
import { sitesBeyond, touchedSites, type Intent, type RosterDevice } from '@iron-lattice/core/intent';
import { countryByName } from '@iron-lattice/core/regulation';
import type { ComposeBranches, ComposedOutcome } from './composed';

/** Composes branches, and works out what would be found at each once its boxes are there. */
export function composeWithFindings(input: ComposeBranches): ComposedOutcome {
  const { asked, intent, roster, models, serials, names, calling, country, keys, findings } = input;
  let drawn = 0;
  const { after, ...composed } = composeBranches(asked, {
    ...{ intent, roster, country, countryOf: countryByName, idFor: randomUUID },
    known: { models: new Set(models), serials: new Map(serials), names: new Map(names) },
    calling: new Map(calling),
    keyFor: () => keys[drawn++ % keys.length]!,
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
  return { composed: { ...composed, after: { estate: after.estate } }, findings: found, touched: [...touched] };
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
