import type { TranslationDocument } from '../../document';
import { spokenFor, translationsOf, uplinkSettings } from '../../intent';
import { policyRule } from '../../rules';
import { pairAt } from '../facts';
import { part, type Told } from '../part';
import { resolvedEnds } from '../resolved-ends';

const ANYTHING = [{ protocol: 'any' as const }];

/** Translations of a site with names put into addresses, by their ids; and what is wrong with them here. */
export const resolvedTranslations = resolvedEnds('translations', (each) => ({ ...each, services: ANYTHING }));

/** As what some are seen outside. */
export const translations = part({
  name: 'translations',
  kinds: ['gateway'],
  reads: {
    site: ['uplinks', 'leaving', 'translations'],
    facts: { pair: pairAt, resolved: resolvedTranslations },
    device: ['id', 'model', 'sheet'],
  },
  tells: ({ pair, resolved, translations: all = [], uplinks, leaving }, device): Told => {
    const mine = spokenFor(pair?.pair, device.id)
      .flatMap((id) => translationsOf({ translations: all }, id))
      .filter(({ off }) => !off);
    if (mine.length === 0) return {};
    const site = { ...(uplinks ? { uplinks } : {}), ...(leaving ? { leaving } : {}) };
    const ports = new Set(uplinkSettings(site, device).map(({ port }) => port));
    const told = mine.flatMap(({ id, name, port, as, pool }): TranslationDocument[] => {
      const packets = resolved.packets[id];
      if (!packets || !ports.has(port)) return [];
      const { from, to } = policyRule(packets, { name });
      return [{ id, name, port, from, to, as: as === 'pool' ? { pool: pool! } : as }];
    });
    return told.length > 0 ? { translations: told } : {};
  },
});
