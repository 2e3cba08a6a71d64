import type { Purposed } from '../purpose';
import type { SharedReach } from '../reach';
import type { ClassLimits } from './limits';

/** A client that a class is given to by its MAC address: that identifies it and proves nothing. */
export interface ClassMember {
  /** Lower case with colons. */
  readonly mac: string;
  /** What it is, in people's words; may be empty. */
  readonly name: string;
}

/** What clients that are known are given: a segment, rules that name the class, and limits. */
export interface AccessClass extends Purposed, ClassLimits {
  readonly id: string;
  readonly name: string;
  /** Name of the segment they join; each site looks it up among its own. */
  readonly segment: string;
  readonly members: readonly ClassMember[];
  /** Groups of users that the controller keeps, whose class it is. */
  readonly groups?: readonly string[] | null;
  /** Whoever is let in where classes count, and whom nothing gives another class, has this one. */
  readonly otherwise?: boolean | null;
  readonly reach: SharedReach;
}
