import { flaw, type Flaw } from '../../base';
import type { PathNeeds, Steadiness } from '../../paths';
import type { RosterLookup } from '../edit';
import { editsOfList } from '../kept-list';
import type { Intent, SitePart } from '../part';
import type { RosterDevice } from '../roster';
import { check as checkRules } from '../rule/apply';
import { uplinkSettings } from '../uplink/setting';
import { MOST_COURSES, type Course } from './course';
import type { CourseOperation } from './operations';

/** Applies an edit of a course. */
export const applyCourse = editsOfList<CourseOperation, Course, 'site'>({
  noun: 'course',
  where: 'site',
  list: 'courses',
  normal: normalised,
  check: (intent, site, course, { roster }) => check(intent, site, course, roster),
});

function check(intent: Intent, site: SitePart, course: Course, roster: RosterLookup): Flaw[] {
  const { id, deviceId, name, turn, from, to, services, needs, steady, dscp } = course;
  const device = roster(deviceId);
  if (!device || device.siteId !== site.id)
    return [flaw('course.device-unknown', 'This gateway is no longer at the site.')];
  const flaws: Flaw[] = [];
  const others = (site.courses ?? []).filter((each) => each.id !== id && each.deviceId === deviceId);
  if (others.length >= MOST_COURSES) flaws.push(flaw('course.many', `A gateway has ${MOST_COURSES} courses at most.`));
  if (name === '') flaws.push(flaw('course.name-empty', 'Give the course a name.', 'name'));
  if (others.some((each) => each.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('course.name-taken', `${device.name} has a course “${name}” already.`, 'name'));
  if (!(Number.isInteger(turn) && turn >= 0 && turn <= 9999))
    flaws.push(flaw('course.turn', 'Its turn is a whole number from 0 to 9999.', 'turn'));
  flaws.push(...checkPorts(site, course, device));
  const marks = dscp ?? [];
  if (marks.some((mark) => !(Number.isInteger(mark) && mark >= 0 && mark <= 63)))
    flaws.push(
      flaw('course.dscp', 'A mark (DSCP) is a name, such as EF or AF41, or a whole number from 0 to 63.', 'dscp'),
    );
  if (needs) flaws.push(...checkNeeds(needs));
  if (steady) flaws.push(...checkSteady(steady));
  const ends = { id, verdict: 'allow' as const, from, to, services };
  const wrong = checkRules(intent, { siteId: site.id }, [ends]);
  return [
    ...flaws,
    ...wrong.map(({ code, message, field }) =>
      flaw(code, message, SERVICE_FIELDS.test(field ?? '') ? 'services' : field?.replace(/^rules\.0\./, '')),
    ),
  ];
}

/** Of what leaves by ports of a gateway, ports of TCP and UDP are said among its services. */
const SERVICE_FIELDS = /^rules\.0\.(ports|sourcePorts|type|code)$/;

function checkPorts(site: SitePart, { ports, how }: Course, device: RosterDevice): readonly Flaw[] {
  if (ports.length === 0) return [flaw('course.no-port', 'Say at least one uplink to leave by.', 'ports')];
  const settings = uplinkSettings(site, device);
  const unknown = ports.find((name) => !settings.some(({ port }) => port === name));
  if (unknown !== undefined) return [flaw('course.port', `${unknown} of ${device.name} is no uplink.`, 'ports')];
  const weights = settings.filter(({ port }) => ports.includes(port)).map(({ weight }) => weight);
  return how === 'share' && weights.every((weight) => weight === 0)
    ? [flaw('course.weights', 'The weights of all these uplinks are 0: nobody would leave by any of them.', 'ports')]
    : [];
}

const NEEDS = {
  loss: [0, 100, '%'],
  latency: [1, 10_000, 'ms'],
  jitter: [0, 10_000, 'ms'],
  voice: [1, 4.4, ''],
} as const;

function checkNeeds(needs: PathNeeds): Flaw[] {
  return Object.entries(NEEDS).flatMap(([field, [least, most, unit]]) => {
    const value = needs[field as keyof PathNeeds];
    if (value === undefined || (value >= least && value <= most)) return [];
    const what = field === 'voice' ? 'A voice score' : `What is needed of ${field}`;
    return [flaw(`course.${field}`, `${what} is ${least} to ${most}${unit && ` ${unit}`}.`, 'needs')];
  });
}

function checkSteady({ bad, good, margin }: Steadiness): Flaw[] {
  const isRun = (value: number): boolean => Number.isInteger(value) && value >= 1 && value <= 100;
  return [
    ...(isRun(bad) && isRun(good)
      ? []
      : [flaw('course.run', 'Rounds in a row: a whole number from 1 to 100.', 'steady')]),
    ...(margin >= 0 && margin < 1 ? [] : [flaw('course.margin', 'By how much better: 0 to 99 %.', 'steady')]),
  ];
}

function normalised({ dscp, needs, steady, off, ...course }: Course): Course {
  const asked = Object.fromEntries(Object.entries(needs ?? {}).filter(([, value]) => value !== undefined));
  const hasNeeds = Object.keys(asked).length > 0;
  return {
    ...course,
    name: course.name.trim(),
    ports: [...new Set(course.ports)],
    ...(dscp && dscp.length > 0 ? { dscp: [...new Set(dscp)].sort((a, b) => a - b) } : {}),
    ...(hasNeeds ? { needs: asked } : {}),
    ...(hasNeeds && steady ? { steady } : {}),
    ...(off ? { off } : {}),
  };
}
