import { coursesOf } from '../intent';
import { resolvedCourses } from '../rollout';
import { Decider } from '../rules';
import type { Check } from './check';
import type { Finding, FindingPlace } from './finding';

const place = (siteId: string, id: string): FindingPlace => ({ siteId, kind: 'course', id });

/** Courses that nothing takes here: whom they name has no address. */
const nowhere: Check = ({ site, roster }) =>
  resolvedCourses({ site, roster }).flaws.flatMap(({ of, code, message }): Finding[] => {
    const course = site.courses?.find(({ id }) => id === of);
    // What was said of a gateway that is gone waits for it.
    if (!course || !roster.some(({ id }) => id === course.deviceId)) return [];
    const { name } = course;
    const found: Finding = {
      key: `paths.course-nowhere ${of} ${code}`,
      code: 'paths.course-nowhere',
      severity: 'warning',
      message: `Nothing takes the course “${name}”`,
      reason: message,
      place: place(site.id, of),
      mend: null,
    };
    return [found];
  });

/** Courses whose packets all take others that come before. */
const covered: Check = ({ site, roster }) => {
  const gateways = roster.map(({ id }) => id).filter((id) => site.courses?.some(({ deviceId }) => deviceId === id));
  if (gateways.length === 0) return [];
  const { packets } = resolvedCourses({ site, roster });
  return gateways.flatMap((deviceId) => {
    const mine = coursesOf(site, deviceId).filter(({ id }) => packets[id]);
    return mine.flatMap((course, at): Finding[] => {
      // Whatever is not marked may pass by one that asks for marks.
      const before = mine.slice(0, at).filter(({ dscp }) => !dscp);
      const rule = packets[course.id]!;
      const decider = new Decider(before.map(({ id }) => packets[id]!));
      if (before.length === 0 || decider.leaves(rule)) return [];
      const names = decider.decidersOf(rule).map(({ id }) => `“${before.find((each) => each.id === id)!.name}”`);
      return [
        {
          key: `paths.course-covered ${course.id}`,
          code: 'paths.course-covered',
          severity: 'warning',
          message: `Nothing takes the course “${course.name}”`,
          reason: `All of its packets are taken by ${names.join(' and ')}, which come before it.`,
          place: place(site.id, course.id),
          mend: null,
        },
      ];
    });
  });
};

export const COURSE_CHECKS: readonly Check[] = [nowhere, covered];
