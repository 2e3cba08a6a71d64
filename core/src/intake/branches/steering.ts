import { sheetFor } from '../../hardware';
import { uplinkPorts, type Course, type Intent, type Operation, type RosterLookup, type SitePart } from '../../intent';

/** One thing by which a gateway is steered like another’s; without an edit where it cannot be. */
export interface Steered {
  readonly operation: Operation | null;
  readonly what: string;
  readonly is: string;
}

/**
 * How a gateway is to be steered like that of another site: its courses, and how it uses its uplinks together. What a course names by
 * segment has to be at the new site under the same name.
 */
export function steeringLike(
  { sites }: Intent,
  from: SitePart,
  roster: RosterLookup,
  to: { readonly siteId: string; readonly deviceId: string; readonly idFor: () => string },
): readonly Steered[] {
  const { siteId, deviceId, idFor } = to;
  const here = new Set(sites.get(siteId)!.segments.map(({ name }) => name.toLowerCase()));
  const device = roster(deviceId)!;
  const ports = new Set(uplinkPorts(device).map(({ name }) => name));
  const model = steeredBy(from, roster);
  if (model === null) return [];
  const courses = (from.courses ?? []).filter((each) => each.deviceId === model).sort((a, b) => a.turn - b.turn);
  const steered = courses.map((course): Steered => {
    const what = `Course ${course.name}`;
    const missing = namedSegments(course).find((name) => !here.has(name.toLowerCase()));
    if (missing !== undefined) return { operation: null, what, is: `it has no segment ${missing}` };
    const port = course.ports.find((each) => !ports.has(each));
    if (port !== undefined) return { operation: null, what, is: `${device.model} has no uplink ${port}` };
    const made = { ...course, id: idFor(), deviceId };
    const how = course.how === 'share' ? ' and ' : ', then ';
    return { operation: { type: 'course.add', siteId, course: made }, what, is: `by ${course.ports.join(how)}` };
  });
  const leaving = from.leaving?.[model];
  if (!leaving) return steered;
  const { parts: _parts, ...rest } = leaving; // by ids of the other site’s segments
  if (Object.keys(rest).length === 0) return steered;
  return [
    ...steered,
    {
      operation: { type: 'uplink.leaving', siteId, deviceId, from: null, to: rest },
      what: 'Uplinks together',
      is: 'as there',
    },
  ];
}

/** The gateway that is steered at a site, by id: the one of most courses. */
function steeredBy({ id, courses = [], leaving = {} }: SitePart, roster: RosterLookup): string | null {
  const ids = [...new Set([...courses.map(({ deviceId }) => deviceId), ...Object.keys(leaving)])].filter((each) => {
    const device = roster(each);
    return device?.siteId === id && sheetFor(device).kind === 'gateway';
  });
  const count = (deviceId: string): number => courses.filter((each) => each.deviceId === deviceId).length;
  return ids.sort((a, b) => count(b) - count(a) || (a < b ? -1 : 1))[0] ?? null;
}

const namedSegments = ({ from, to }: Course): string[] =>
  [...from, ...to].flatMap((end) => (end.kind === 'segment' ? [end.name] : []));
