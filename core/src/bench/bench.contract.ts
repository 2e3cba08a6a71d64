import type { Probe } from './probe';
import type { Walk } from './walk-step';

export interface WalkRequest {
  readonly siteId: string;
  readonly probe: Probe;
  /** `draft` needs `draftId`; `live` is what devices acknowledged. */
  readonly on: 'draft' | 'live';
  readonly draftId?: string;
}
export interface WalkResult extends Walk {
  readonly on: 'draft' | 'live';
}
