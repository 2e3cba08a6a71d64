import { translationsOf, type SitePart } from '@iron-lattice/core/intent';
import { writeEnds } from '@iron-lattice/core/rules';
import type { KeptRow } from './kept-list';
import { titleOf, type GatewayRow } from './path-rows';
import { seenWords } from './translation-text';

/** The translations of a gateway, in the order in which they decide. */
export function translationRows(
  site: Pick<SitePart, 'translations'>,
  { device, uplinks }: Pick<GatewayRow, 'device' | 'uplinks'>,
): KeptRow[] {
  return translationsOf(site, device.id).map((each): KeptRow => {
    const uplink = uplinks.find(({ port }) => port === each.port);
    const whom = writeEnds(each.from);
    return {
      ...{ key: `translation:${each.id}`, name: each.name, off: each.off ?? false },
      cells: [
        { text: `${whom === 'any' ? 'everybody' : whom} → ${writeEnds(each.to)}` },
        { text: `by ${uplink ? titleOf(uplink) : each.port}` },
        { text: each.off ? 'off' : `as ${seenWords(each)}`, tone: each.off ? 'soft' : 'mono' },
      ],
    };
  });
}
