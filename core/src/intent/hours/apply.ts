import { flaw, type Flaw } from '../../base';
import { halfHoursOf, isDay, minuteOfDay, spansOfHalfHours, type Rule } from '../../rules';
import { byName, editsOfList } from '../kept-list';
import type { EstatePart, Intent } from '../part';
import { MOST_CLOSED, MOST_HOURS, type Hours } from './hours';
import type { HoursOperation } from './operations';

/** Applies an edit of hours, which sites share; they stay ordered by name, and as long as something uses them. */
export const applyHours = editsOfList<HoursOperation, Hours, 'estate'>({
  noun: 'hours',
  where: 'estate',
  list: 'hours',
  order: byName,
  normal: normalised,
  purposed: true,
  check: (_intent, estate, hours) => check(hours, estate),
  stays: (intent, estate, { id, name }) => {
    const user = estate.ssids.find((ssid) =>
      [ssid, ...Object.values(ssid.exceptions ?? {})].some(({ hours }) => hours === id),
    );
    const by = user ? `the SSID “${user.name}”` : usedBy(intent, estate, id);
    return by === null ? null : flaw('hours.used', `“${name}” is used by ${by}. Take it out there first.`);
  },
});

/** A rule, a duty or a port that uses hours, in words; null: none. */
function usedBy({ sites }: Pick<Intent, 'sites'>, estate: EstatePart, id: string): string | null {
  const uses = (rules: readonly Rule[] = []): Rule | undefined => rules.find(({ hours }) => hours === id);
  const shared = uses(estate.rulesBefore) ?? uses(estate.rulesAfter);
  if (shared) return `a rule of the estate${said(shared)}`;
  const portal = estate.portals?.find(({ hours }) => hours === id);
  if (portal) return `the portal “${portal.name}”`;
  for (const site of sites.values()) {
    const rule = uses(site.rules);
    if (rule) return `a rule of ${site.name}${said(rule)}`;
    const published = site.publications?.find(({ hours }) => hours === id);
    if (published) return `what ${site.name} publishes as “${published.name}”`;
    const duty = site.duties?.find(({ hours }) => hours === id);
    if (duty) return `the duty “${duty.name}” of ${site.name}`;
    for (const ports of Object.values(site.ports))
      for (const [port, { hours }] of Object.entries(ports)) if (hours === id) return `port ${port} at ${site.name}`;
  }
  return null;
}
const said = ({ comment }: Rule): string => (comment ? `, “${comment}”` : '');

function normalised({ closed, times, ...hours }: Hours): Hours {
  const days = [...new Set(closed ?? [])].sort();
  const plain = areReadable(times) ? spansOfHalfHours(halfHoursOf(times)) : times;
  return { ...hours, name: hours.name.trim(), times: plain, ...(days.length > 0 ? { closed: days } : {}) };
}

/** Whether spans begin and end at half hours, so that nothing is lost when they are written in the one way. */
const areReadable = (times: Hours['times']): boolean =>
  times.every(({ from, to, days }) => isHalf(from) && isHalf(to) && days.every((day) => day >= 1 && day <= 7));
const isHalf = (text: string): boolean => (minuteOfDay(text) ?? 1) % 30 === 0;

function check({ id, name, times, closed = [] }: Hours, { hours = [] }: EstatePart): Flaw[] {
  const flaws: Flaw[] = [];
  if (name === '') flaws.push(flaw('hours.name-empty', 'Give the hours a name.', 'name'));
  else if (name.length > 60) flaws.push(flaw('hours.name-long', 'Hours have 60 characters at most.', 'name'));
  const others = hours.filter((each) => each.id !== id);
  if (others.some((each) => each.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('hours.name-taken', `There are already hours “${name}”.`, 'name'));
  if (others.length >= MOST_HOURS) flaws.push(flaw('hours.many', `An estate has ${MOST_HOURS} hours at most.`));
  if (!areReadable(times))
    flaws.push(flaw('hours.half', 'Hours begin and end at half hours, such as 08:00 and 17:30.', 'times'));
  else if (times.length === 0) {
    const words = 'A week with no hour in it: paint some, or switch off what uses it.';
    flaws.push(flaw('hours.never', words, 'times'));
  }
  const wrong = (closed ?? []).find((day) => !isDay(day));
  if (wrong !== undefined) flaws.push(flaw('hours.day', `“${wrong}” is no day; write it like 2026-12-25.`, 'closed'));
  if ((closed ?? []).length > MOST_CLOSED)
    flaws.push(flaw('hours.closed-many', `${MOST_CLOSED} days at most.`, 'closed'));
  return flaws;
}
