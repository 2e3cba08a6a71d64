import type { BranchesAsked, BranchesSeen, BranchFindings, ComposedBranches } from '@iron-lattice/core/intake';
import type { Intent, RosterDevice } from '@iron-lattice/core/intent';
import type { SentPart } from '../../intent/sent-input';

/** What branches are composed from, as plain values. */
export interface ComposeBranches {
  readonly asked: BranchesAsked;
  readonly estate: SentPart;
  readonly sites: readonly SentPart[];
  readonly roster: readonly RosterDevice[];
  readonly models: readonly string[];
  /** Whom serial numbers and names belong to, in words. */
  readonly serials: readonly (readonly [serial: string, holder: string])[];
  readonly names: readonly (readonly [name: string, holder: string])[];
  /** Boxes that are nobody’s. */
  readonly heard: readonly (readonly [serial: string, box: { readonly id: string; readonly model: string }])[];
  /** Ids of those of them that call now. */
  readonly calling: readonly string[];
  readonly country: string;
  /** What sites share, as it is live: boxes that call are told it as soon as they are taken in. */
  readonly live: SentPart;
  /** Whether it is worked out what would be found at them. */
  readonly findings: boolean;
}

/** Branches as composed, without the sites that stay as they are. */
export interface ComposedOutcome {
  readonly composed: Omit<ComposedBranches, 'after'> & { readonly after: Pick<Intent, 'estate'> };
  /** Private keys that edits refer to, by the id that each is kept under. */
  readonly keys: Readonly<Record<string, string>>;
  readonly findings: readonly BranchFindings[];
  /** Branches whose boxes call and are there at once, with how many of these the draft would then tell something. */
  readonly begun: BranchesSeen['elsewhere'];
  /** Ids of other sites that are touched. */
  readonly touched: BranchesSeen['elsewhere'][number]['siteId'][];
}
