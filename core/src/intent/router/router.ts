import type { Rule } from '../../rules';
import type { LinkEnd } from '../roster';

/** What a box of others is assumed to let pass, of what comes to it: the first that matches decides. */
export type AssumedRule = Pick<Rule, 'id' | 'verdict' | 'from' | 'to' | 'services'>;

/**
 * What routes segments of a site in place of its gateway: a switch of ours that can, which is told so; or a box of others,
 * of which all that is said is an assumption.
 */
export interface SiteRouter {
  readonly id: string;
  readonly name: string;
  /** The switch of ours; absent: a box of others. */
  readonly deviceId?: string | null;
  /** The segment in which it meets the gateway, and its own address there; absent: it meets none, and has a way out of its own. */
  readonly meets?: { readonly segmentId: string; readonly address: string } | null;
  /** Of a box of others: the port of ours that it is plugged in at; absent: nobody knows. */
  readonly at?: LinkEnd | null;
  /** Of a box of others: whether what is for the internet leaves by a line of its own, and not through the gateway. */
  readonly ownWayOut?: boolean | null;
  /** Of a box of others: networks behind it, beside the segments that it routes. */
  readonly behind?: readonly string[] | null;
  /** Of a box of others: what it lets pass; absent: everything. */
  readonly lets?: readonly AssumedRule[] | null;
  /** What it is, in people’s words. */
  readonly purpose?: string | null;
}

/** A segment that is routed by nobody: it is carried, and nothing gets into it or out of it. */
export const NOWHERE_ROUTED = 'nowhere';

/** Routers of a site; characters of a name; networks behind one; rules that one is assumed to have. */
export const [MOST_ROUTERS, MOST_ROUTER_NAME, MOST_BEHIND, MOST_ASSUMED] = [16, 40, 64, 100];

/** Whether a router is a box of others, of which all is assumed. */
export const isOfOthers = ({ deviceId }: Pick<SiteRouter, 'deviceId'>): boolean => !deviceId;
