import type { NoteReport } from '@iron-lattice/core/line';

/** How often a rule decided, as gateways count it. */
export interface RuleHits {
  readonly ruleId: string;
  readonly packets: number;
  readonly since: string;
  readonly lastAt: string | null;
  /** The latest packets that it noted, the newest first. */
  readonly notes: readonly (NoteReport & { readonly device: string })[];
}
