import { flaw } from '../base';
import { refuse, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import { carrySharedName } from './name-carry';
import type { Intent, Ssid } from './nouns';
import type { Operation } from './operation';
import { checkSsid } from './ssid-check';

type SsidOperation = Extract<Operation, { type: 'ssid.add' | 'ssid.remove' | 'ssid.set' }>;

/** Applies an edit of an SSID, which sites share; SSIDs stay ordered by name. */
export function applySsid(intent: Intent, operation: SsidOperation): Applied | Refused {
  const { ssids } = intent.estate;
  if (operation.type === 'ssid.add') {
    const { ssid } = operation;
    if (ssids.some((each) => each.id === ssid.id)) return refuse(flaw('ssid.exists', 'This SSID is already there.'));
    const flaws = checkSsid(ssid, intent.estate);
    if (flaws.length > 0) return refuse(...flaws);
    return done(intent, [...ssids, ssid], { type: 'ssid.remove', ssidId: ssid.id });
  }
  const ssid = ssids.find((each) => each.id === operation.ssidId);
  if (!ssid) return refuse(flaw('ssid.unknown', 'This SSID is no longer in the estate.'));
  const others = ssids.filter((each) => each.id !== ssid.id);
  if (operation.type === 'ssid.remove') return done(intent, others, { type: 'ssid.add', ssid });
  const clash = changed(ssid, operation);
  if (clash) return refuse(flaw('ssid.changed', `Somebody changed the ${clash} of “${ssid.name}” meanwhile.`, clash));
  const next: Ssid = { ...ssid, ...operation.to };
  const flaws = checkSsid(next, intent.estate);
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: Operation = { ...operation, from: pick(next, operation.to), to: pick(ssid, operation.to) };
  return done(carrySharedName(intent, 'ssid', ssid.name, next.name), [...others, next], inverse);
}

function done(intent: Intent, ssids: readonly Ssid[], inverse: Operation): Applied {
  const ordered = [...ssids].sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : a.id < b.id ? -1 : 1));
  return { ok: true, intent: { ...intent, estate: { ...intent.estate, ssids: ordered } }, inverse };
}
