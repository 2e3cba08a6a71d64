import type { CourseDocument } from '../../document';
import { coursesOf, spokenFor, uplinkSettings, type Course } from '../../intent';
import { policyRule, type PacketRule } from '../../rules';
import { pairAt } from '../facts';
import { part } from '../part';
import { resolvedEnds } from '../resolved-ends';

/** Courses of a site with names put into addresses, by their ids; and what is wrong with them here. */
export const resolvedCourses = resolvedEnds('courses', (course) => course);

/** What leaves a gateway otherwise than the rest. */
export const courses = part({
  name: 'courses',
  kinds: ['gateway'],
  reads: {
    site: ['uplinks', 'leaving', 'courses'],
    facts: { pair: pairAt, resolved: resolvedCourses },
    device: ['id', 'model', 'sheet'],
  },
  tells: ({ pair, resolved, courses: all = [], uplinks, leaving }, device) => {
    const mine = spokenFor(pair?.pair, device.id)
      .flatMap((id) => coursesOf({ courses: all }, id))
      .filter(({ off }) => !off);
    if (mine.length === 0) return {};
    const site = { ...(uplinks ? { uplinks } : {}), ...(leaving ? { leaving } : {}) };
    const ports = new Set(uplinkSettings(site, device).map(({ port }) => port));
    const told = mine.flatMap((course): CourseDocument[] => {
      const packets = resolved.packets[course.id];
      return packets ? [courseTold(course, packets, ports)] : [];
    });
    return told.length > 0 ? { courses: told } : {};
  },
});

function courseTold(course: Course, packets: PacketRule, ports: ReadonlySet<string>): CourseDocument {
  const { name, dscp, how, otherwise, needs, steady } = course;
  const { id, from, to, services } = policyRule(packets, { name });
  const here = course.ports.filter((port) => ports.has(port));
  return {
    ...{ id, name, from, to, services },
    ...(dscp ? { dscp } : {}),
    ways: here.map((port, turn) => (how === 'share' && here.length > 1 ? { port } : { port, turn })),
    ...(otherwise === 'nothing' ? { otherwise } : {}),
    ...(needs ? { needs } : {}),
    ...(steady ? { steady } : {}),
  };
}
