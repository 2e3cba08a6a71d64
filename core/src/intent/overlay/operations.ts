import type { OverlaySaid } from './overlay';

/** Says what tunnels between sites have in common; null: nothing, and there are none. */
export interface OverlayOperation {
  readonly type: 'overlay.set';
  readonly from: OverlaySaid | null;
  readonly to: OverlaySaid | null;
}
