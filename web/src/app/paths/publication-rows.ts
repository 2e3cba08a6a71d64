import {
  publicationsOf,
  publishedRuleId,
  type Hours,
  type Publication,
  type SitePart,
} from '@iron-lattice/core/intent';
import { writeEnds } from '@iron-lattice/core/rules';
import type { RuleHits } from '../shell/rule-hits';
import { counted } from '../ui/counted';
import { titleOf, type GatewayRow } from './path-rows';
import { askedWords, leadsWords } from './publication-text';

/** What is published, as the list shows it. */
export interface PublicationRow {
  readonly publication: Publication;
  /** `tcp 443`. */
  readonly asked: string;
  /** Where: uplinks, with the addresses that they have now. */
  readonly at: readonly string[];
  readonly leads: string;
  readonly whom: string;
  readonly now: string;
}

/** What a gateway publishes, by name. @param hits what its rules decided; by id of the rule. */
export function publicationRows(
  site: Pick<SitePart, 'publications'>,
  { device, uplinks }: Pick<GatewayRow, 'device' | 'uplinks'>,
  hits: ReadonlyMap<string, Pick<RuleHits, 'packets'>>,
  hours: readonly Pick<Hours, 'id' | 'name'>[] = [],
): PublicationRow[] {
  return publicationsOf(site, device.id).map((publication): PublicationRow => {
    const { id, ports, from, off, within } = publication;
    const at = uplinks
      .filter(({ port }) => ports.length === 0 || ports.includes(port))
      .map((row) => [titleOf(row), row.fact?.address].filter(Boolean).join(' '));
    const when = hours.find((each) => each.id === publication.hours);
    const came = hits.get(publishedRuleId(id))?.packets;
    return {
      ...{ publication, asked: askedWords(publication), at, leads: leadsWords(publication) },
      whom: [
        writeEnds(from) === 'internet' ? 'everybody outside' : writeEnds(from),
        ...(when ? [`at ${when.name}`] : []),
        ...(within ? ['and from inside'] : []),
      ].join(', '),
      now: off
        ? 'off'
        : came === undefined
          ? 'not told yet'
          : came === 0
            ? 'nobody came yet'
            : `${counted(came, 'time')} let in`,
    };
  });
}
