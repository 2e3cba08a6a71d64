import type { ResolvedSite } from '../intent';
import { classKey, ssidKey } from '../rollout';
import type { RuleEnd } from '../rules';

/** How the clients of an end are attached that is one SSID or one class; undefined: in more ways than one, or it is something else. */
export function attachedOf(
  [end, ...more]: readonly RuleEnd[],
  { ssids, accessClasses }: ResolvedSite,
): string | undefined {
  if (more.length > 0 || (end?.kind !== 'ssid' && end?.kind !== 'class')) return undefined;
  const found = (end.kind === 'ssid' ? ssids : accessClasses).find(({ name }) => name === end.name);
  return found && (end.kind === 'ssid' ? ssidKey : classKey)(found.id);
}
