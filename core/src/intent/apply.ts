import { flaw } from '../base';
import { refuse, type Applied, type Refused, type RosterLookup } from './edit-result';
import type { Intent } from './nouns';
import type { Operation } from './operation';
import { applyPort } from './port-apply';
import { applySegment } from './segment-apply';
import { applySsid } from './ssid-apply';

/**
 * Applies one edit if its precondition holds. Pure: the given intent is not changed, untouched parts are shared.
 * @param roster the devices that are ours; edits of ports need their model.
 */
export function apply(intent: Intent, operation: Operation, roster: RosterLookup): Applied | Refused {
  if (!('siteId' in operation)) return applySsid(intent, operation);
  const site = intent.sites.get(operation.siteId);
  if (!site) return refuse(flaw('site.unknown', 'This site is no longer in the estate.'));
  if (operation.type === 'port.tag' || operation.type === 'port.untag' || operation.type === 'port.untagged')
    return applyPort(intent, site, operation, roster);
  return applySegment(intent, site, operation);
}
