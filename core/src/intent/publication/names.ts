import type { SearchHit } from '../../base';
import { namesEnd } from '../ends';
import type { Matches, Naming } from '../noun';
import type { Intent } from '../part';
import { protocolsOf } from './publication';

/** What is published names sets of whom it is for: those keep their names while it does. */
export const namingOfPublications: Naming = {
  userOf: (part, kind, name) =>
    part.kind === 'site' && part.publications?.some((each) => namesEnd({ ...each, ...INWARDS }, kind, name))
      ? `a published port of ${part.name}`
      : null,
  follow: (part) => part,
};
const INWARDS = { to: [], services: [] };

/** What is published by name, by whom it leads to, or by its port. */
export function* findPublications({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id: siteId, name: siteName, publications = [] } of sites.values())
    for (const { id, name, outside, address, protocol } of publications) {
      const at = `${protocolsOf({ protocol }).join(' and ')} ${outside}`;
      if (!matches(name, `${at} ${address}`)) continue;
      yield {
        kind: 'publication',
        id,
        siteId,
        title: name,
        detail: `Published at ${siteName}: ${at} leads to ${address}`,
      };
    }
}
