import { flaw } from '../base';
import { refuse, type Applied, type Refused, type RosterLookup } from './edit-result';
import type { Intent } from './nouns';
import type { Operation } from './operation';
import { applyClass } from './class-apply';
import { applyDuty } from './duty-apply';
import { applyPool } from './pool-apply';
import { applyPort } from './port-apply';
import { applyRecipe } from './recipe-apply';
import { applyController, applyGuarantee } from './guarantee-apply';
import { applyRule } from './rule-apply';
import { applySet } from './set-apply';
import { applySegment } from './segment-apply';
import { applySsid } from './ssid-apply';

/**
 * Applies one edit if its precondition holds. Pure: the given intent is not changed, untouched parts are shared.
 * @param roster the devices that are ours; edits of ports need their model.
 */
export function apply(intent: Intent, operation: Operation, roster: RosterLookup): Applied | Refused {
  if (isOf(operation, 'rule')) return applyRule(intent, operation);
  if (isOf(operation, 'set')) return applySet(intent, operation);
  if (isOf(operation, 'guarantee')) return applyGuarantee(intent, operation);
  if (isOf(operation, 'controller')) return applyController(intent, operation);
  if (isOf(operation, 'class')) return applyClass(intent, operation);
  if (!('siteId' in operation))
    return isOf(operation, 'recipe') ? applyRecipe(intent, operation) : applySsid(intent, operation);
  const site = intent.sites.get(operation.siteId);
  if (!site) return refuse(flaw('site.unknown', 'This site is no longer in the estate.'));
  if (isOf(operation, 'port')) return applyPort(intent, site, operation, roster);
  if (isOf(operation, 'duty')) return applyDuty(intent, site, operation);
  if (isOf(operation, 'pool')) return applyPool(intent, site, operation);
  return applySegment(intent, site, operation);
}

/** Whether an edit is of a noun. */
const isOf = <T extends Operation, N extends string>(
  operation: T,
  noun: N,
): operation is Extract<T, { type: `${N}.${string}` }> => operation.type.startsWith(`${noun}.`);
