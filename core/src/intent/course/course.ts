import type { PathNeeds, Steadiness } from '../../paths';
import type { RuleEnd, RuleService } from '../../rules';

/** Packets that leave a gateway otherwise than the rest: which, by which uplinks, and what those have to be like. */
export interface Course {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
  /** The first that fits a packet decides, from the lowest on. */
  readonly turn: number;
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  readonly services: readonly RuleService[];
  /** Marks that packets bear (RFC 2474); none: any. */
  readonly dscp?: readonly number[] | null;
  /** Ports of the uplinks that they may leave by, in the order in which they are preferred. */
  readonly ports: readonly string[];
  /** By the first of them that is good, or by all that are, by their weights. */
  readonly how: 'first' | 'share';
  /** What happens while none of them is good: they leave as the rest does, or not at all. */
  readonly otherwise: 'usual' | 'nothing';
  /** What an uplink has to be like; none: good. */
  readonly needs?: PathNeeds | null;
  readonly steady?: Steadiness | null;
  /** Kept, and not in force. */
  readonly off?: boolean | null;
}

/** Courses of one gateway, and ports and marks of one course. */
export const [MOST_COURSES, MOST_COURSE_PORTS, MOST_MARKS] = [50, 16, 64];
/** Characters of a name. */
export const MOST_COURSE_NAME = 60;

/** The courses of a gateway that are in force, in the order in which they decide. */
export const coursesOf = ({ courses = [] }: { readonly courses?: readonly Course[] }, deviceId: string): Course[] =>
  courses.filter((each) => each.deviceId === deviceId).sort((a, b) => a.turn - b.turn);
