import type { AskStep } from '@iron-lattice/core/assess';
import { offer } from '../platform/offers';

/** Something that goes into a tunnel to another site: from whom at which site to whom, and on what it is judged. */
export interface LedAway {
  readonly siteId: string;
  readonly from: string;
  readonly to: string;
  readonly on: 'draft' | 'live';
  readonly draftId: string;
  readonly then?: string | undefined;
}

/** What becomes of a web page that is asked for through a tunnel, from there on; null: no joined site has it. */
export type AwayTeller = (
  led: LedAway,
) => Promise<{ readonly siteId: string; readonly steps: readonly AskStep[] } | null>;

/** What other sites make of what comes through tunnels. */
export const AWAY = offer<AwayTeller>('what becomes of something at another site');
