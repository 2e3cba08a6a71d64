import { coursesOf, type Course } from '../intent';
import { resolvedCourses } from '../rollout';
import type { Check } from './check';
import { takenChecks } from './taken-checks';

export const COURSE_CHECKS: readonly Check[] = takenChecks<Course>({
  kind: 'course',
  listOf: ({ courses }) => courses,
  inOrder: coursesOf,
  resolved: resolvedCourses,
  // Whatever is not marked may pass by one that asks for marks.
  hides: ({ dscp }) => !dscp,
});
