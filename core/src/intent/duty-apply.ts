import { flaw, type Flaw } from '../base';
import { refuse, withSite, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import type { Intent, SitePart } from './nouns';
import type { Operation } from './operation';
import type { PortDuty } from './port';
import { checkCarried } from './port-apply';

type DutyOperation = Extract<Operation, { type: 'duty.add' | 'duty.remove' | 'duty.set' }>;

/** Applies an edit of a port duty; duties stay ordered by name. */
export function applyDuty(intent: Intent, site: SitePart, operation: DutyOperation): Applied | Refused {
  const duties = site.duties ?? [];
  if (operation.type === 'duty.add') {
    const { duty } = operation;
    if (duties.some((each) => each.id === duty.id)) return refuse(flaw('duty.exists', 'This duty is already there.'));
    const flaws = check(site, duty);
    if (flaws.length > 0) return refuse(...flaws);
    return done(intent, site, [...duties, duty], { type: 'duty.remove', siteId: site.id, dutyId: duty.id });
  }
  const duty = duties.find((each) => each.id === operation.dutyId);
  if (!duty) return refuse(flaw('duty.unknown', 'This duty is no longer at the site.'));
  const others = duties.filter((each) => each.id !== duty.id);
  if (operation.type === 'duty.remove') {
    const used = portsWith(site, duty.id);
    if (used > 0) {
      const text = `“${duty.name}” is the duty of ${used} ${used === 1 ? 'port' : 'ports'}. Give them another first.`;
      return refuse(flaw('duty.used', text));
    }
    return done(intent, site, others, { type: 'duty.add', siteId: site.id, duty });
  }
  const clash = changed<Partial<PortDuty>>(duty, operation);
  if (clash) return refuse(flaw('duty.changed', `Somebody changed the ${clash} of “${duty.name}” meanwhile.`, clash));
  const next = withoutNulls({ ...duty, ...operation.to });
  const flaws = check(site, next);
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: Operation = {
    ...operation,
    from: pick<Partial<PortDuty>>(next, operation.to),
    to: pick<Partial<PortDuty>>(duty, operation.to),
  };
  return done(intent, site, [...others, next], inverse);
}

function check(site: SitePart, duty: PortDuty): Flaw[] {
  const flaws = checkCarried(site, duty);
  const name = duty.name.trim();
  if (name === '') flaws.push(flaw('duty.name-empty', 'Give the duty a name.', 'name'));
  if (site.duties?.some((other) => other.id !== duty.id && other.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('duty.name-taken', `This site already has a duty “${name}”.`, 'name'));
  if (duty.storm !== undefined && !(duty.storm >= 0.1 && duty.storm <= 100))
    flaws.push(flaw('port.storm', 'A limit lies between 0.1 and 100 percent.', 'storm'));
  return flaws;
}

/** How many ports of a site have a duty. */
export const portsWith = (site: SitePart, dutyId: string): number =>
  Object.values(site.ports).reduce(
    (sum, ports) => sum + Object.values(ports).filter((entry) => entry.dutyId === dutyId).length,
    0,
  );

/** An edit's null in an optional field takes the field away; `untagged` may be null for good. */
function withoutNulls(duty: PortDuty): PortDuty {
  const kept = Object.entries(duty).filter(
    ([key, value]) => key === 'untagged' || (value !== null && value !== undefined),
  );
  return Object.fromEntries(kept) as unknown as PortDuty;
}

function done(intent: Intent, site: SitePart, duties: readonly PortDuty[], inverse: Operation): Applied {
  const { duties: _old, ...rest } = site;
  const sorted = [...duties].sort((a, b) => (a.name < b.name ? -1 : 1));
  return { ok: true, intent: withSite(intent, duties.length === 0 ? rest : { ...rest, duties: sorted }), inverse };
}
