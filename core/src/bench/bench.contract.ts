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
}
export interface WalkResult extends Walk {
  readonly on: 'draft' | 'live';
}
