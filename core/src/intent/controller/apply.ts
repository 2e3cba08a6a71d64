import { flaw } from '../../base';
import { readAddresses } from '../../rules';
import { refuse, type Outcome } from '../edit';
import { changed } from '../field-change';
import type { Intent } from '../part';
import type { ControllerOperation } from './operations';

/** Says where this controller answers. */
export function applyController(intent: Intent, operation: ControllerOperation): Outcome<ControllerOperation> {
  const { from, to } = operation;
  const now = intent.estate.controller ?? [];
  if (changed({ controller: now }, { from: { controller: from }, to: {} }))
    return refuse(flaw('controller.changed', 'Somebody changed it meanwhile.', 'controller'));
  const bad = to.find((text) => readAddresses(text) === null);
  if (bad !== undefined)
    return refuse(flaw('controller.address', `${bad} is no address, prefix or range from low to high.`, 'controller'));
  const { controller: _old, ...rest } = intent.estate;
  const estate = to.length === 0 ? rest : { ...rest, controller: to };
  return { ok: true, intent: { ...intent, estate }, inverse: { type: 'controller.set', from: to, to: now } };
}
