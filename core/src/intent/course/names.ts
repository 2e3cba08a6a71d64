import type { SearchHit } from '../../base';
import { writeEnds } from '../../rules';
import { followIn, namesEnd } from '../ends';
import type { Matches, Naming } from '../noun';
import type { Intent } from '../part';

/** Courses name whom they are about; they follow it to another name. */
export const namingOfCourses: Naming = {
  userOf: (part, kind, name) =>
    part.kind === 'site' && part.courses?.some((each) => namesEnd(each, kind, name))
      ? `a course of ${part.name}`
      : null,
  follow: (part, renamed) => followIn(part, ['courses'], renamed),
};

/** Courses by name, or by whom they are about. */
export function* findCourses({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id: siteId, name: siteName, courses = [] } of sites.values())
    for (const { id, name, from, to } of courses) {
      const whom = `${writeEnds(from)} to ${writeEnds(to)}`;
      if (!matches(name, whom)) continue;
      yield { kind: 'course', id, siteId, title: name, detail: `Course of ${siteName}, ${whom}` };
    }
}
