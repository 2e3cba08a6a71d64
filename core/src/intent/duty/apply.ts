import { flaw, type Flaw } from '../../base';
import { byName, editsOfList } from '../kept-list';
import type { SitePart } from '../part';
import { checkAsked, checkCarried, checkShared } from '../port/apply';
import type { PortDuty } from './duty';
import type { DutyOperation } from './operations';

/** Applies an edit of a port duty; duties stay ordered by name. */
export const applyDuty = editsOfList<DutyOperation, PortDuty, 'site'>({
  noun: 'duty',
  where: 'site',
  list: 'duties',
  order: byName,
  normal: withoutNulls,
  purposed: true,
  check: ({ estate }, site, duty) => [...check(site, duty), ...checkShared(estate, duty)],
  stays: (_intent, site, duty) => {
    const used = portsWith(site, duty.id);
    if (used === 0) return null;
    const text = `“${duty.name}” is the duty of ${used} ${used === 1 ? 'port' : 'ports'}. Give them another first.`;
    return flaw('duty.used', text);
  },
});

function check(site: SitePart, duty: PortDuty): Flaw[] {
  const flaws = [...checkCarried(site, duty), ...checkAsked(site, { voice: null, ...duty })];
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
