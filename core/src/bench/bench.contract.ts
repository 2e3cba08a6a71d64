import type { AnyProbe } from './probe';
import type { Walk } from './walk-step';

export interface WalkRequest {
  readonly siteId: string;
  readonly probe: AnyProbe;
  /** `draft` needs `draftId`; `live` is what devices acknowledged. */
  readonly on: 'draft' | 'live';
  readonly draftId?: string;
  /** What is meant by live, if not what is live now: the number of a revision, or a moment in ISO 8601. */
  readonly then?: string;
  /** An IPv4 address that the walk goes to, here or at a joined site; absent: to the internet. */
  readonly to?: string;
}
export interface WalkResult extends Walk {
  readonly on: 'draft' | 'live';
  /** The address that it went to; absent: to the internet. */
  readonly to?: string;
}
