import type { PublishedDocument } from '../../document';
import { protocolsOf, publicationsOf, publishedRuleId, type Publication } from '../../intent';
import type { PolicyRule } from '../../rules';
import { holderOf, holdersOf } from '../facts';
import { part, type Told } from '../part';
import { sitePolicy } from '../policy/site-policy';
import { fact } from '../reads';

/** Rules of what is published, as their gateway is told them; by id of the rule. */
const toldRules = fact(
  { facts: { made: sitePolicy } },
  ({ made }): Readonly<Record<string, PolicyRule>> => {
    const ids = new Set(made.rows.flatMap(({ book, rule }) => (book === 'published' ? [rule.id] : [])));
    return Object.fromEntries(made.policy.rules.flatMap((rule) => (ids.has(rule.id) ? [[rule.id, rule]] : [])));
  },
  { settles: true },
);

/** What people outside reach: of the gateway that routes the segments. */
export const published = part({
  name: 'published',
  kinds: ['gateway'],
  reads: { site: ['publications'], facts: { holder: holderOf, holders: holdersOf, rules: toldRules }, device: ['id'] },
  tells: ({ publications = [], holder, holders, rules }, { id }): Told => {
    if (holder === null || !holders.includes(id)) return {};
    const told = publicationsOf({ publications }, holder).flatMap((each): PublishedDocument[] => {
      const rule = rules[publishedRuleId(each.id)];
      return rule ? [publishedTold(each, rule)] : [];
    });
    return told.length > 0 ? { published: told } : {};
  },
});

function publishedTold(publication: Publication, { times, closed, from }: PolicyRule): PublishedDocument {
  const { id, name, outside, address, inside, ports, within } = publication;
  const anybody = publication.from.some(({ kind }) => kind === 'any' || kind === 'internet');
  return {
    ...{ id, name, from: anybody ? ['any'] : from, protocols: protocolsOf(publication), outside, address },
    ...(inside ? { inside } : {}),
    ...(ports.length > 0 ? { ports } : {}),
    ...(within ? { within } : {}),
    ...(times ? { times } : {}),
    ...(closed ? { closed } : {}),
  };
}
