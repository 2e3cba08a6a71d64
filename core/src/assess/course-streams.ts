import { coursesOf, rangesOfSegment, type ResolvedSite, type RosterDevice } from '../intent';
import { resolvedCourses } from '../rollout';
import { Decider, resolveRules, type PacketRule, type RuleEnd } from '../rules';

/** What leaves a gateway of a segment: the courses that take some of it, in their order, and whether any leaves as usual. */
export interface SegmentStreams {
  readonly segmentId: string;
  readonly name: string;
  /** Ids. */
  readonly courses: readonly string[];
  readonly usual: boolean;
}

/** Everything outside, for any of a segment’s clients. */
const OUTSIDE = 'outside';

/**
 * How the segments of a site leave by one of its gateways. Courses by marks count where any of their packets could be of the segment.
 * @param roster the site’s devices.
 * @param to an address, where only what is for that is asked after; absent: all that is outside.
 */
export function segmentStreams(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  { id }: Pick<RosterDevice, 'id'>,
  to?: string,
): readonly SegmentStreams[] {
  const { packets } = resolvedCourses({ site, roster });
  const mine = coursesOf(site, id).flatMap(({ id: courseId, dscp }) => {
    const rule = packets[courseId];
    return rule ? [{ rule, marked: Boolean(dscp) }] : [];
  });
  const outward = outwardRules(site, to === undefined ? { kind: 'internet' } : { kind: 'addresses', text: to });
  // What bears no mark goes on to the next: courses by marks take nothing for certain.
  const decider = new Decider(mine.filter(({ marked }) => !marked).map(({ rule }) => rule));
  return outward.map(({ segment, rule }): SegmentStreams => {
    const taken = new Set(decider.decidersOf(rule).map((each) => each.id));
    const marked = mine.filter((each) => each.marked && decider.overlap(each.rule, rule)).map((each) => each.rule.id);
    const courses = mine.map((each) => each.rule.id).filter((each) => taken.has(each) || marked.includes(each));
    return { segmentId: segment.id, name: segment.name, courses, usual: decider.leaves(rule) };
  });
}

function outwardRules(
  { segments }: ResolvedSite,
  to: RuleEnd,
): { segment: ResolvedSite['segments'][number]; rule: PacketRule }[] {
  const names = { segments: new Map(segments.map((one) => [one.name, rangesOfSegment(one)])), sets: new Map() };
  return segments.flatMap((segment) => {
    const written = {
      ...{ id: OUTSIDE, verdict: 'allow' as const, to: [to] },
      ...{ from: [{ kind: 'segment' as const, name: segment.name }], services: [{ protocol: 'any' as const }] },
    };
    const [rule] = resolveRules([written], names).rules;
    return rule ? [{ segment, rule }] : [];
  });
}
