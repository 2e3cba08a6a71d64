import type { Flaw } from '../base';
import type { EstatePart, Link, Operation, RosterDevice, SitePart, VlanPool } from '../intent';
import type { UplinkAddress } from './check';
import type { SentConsequences } from './consequences';
import type { MendStep } from './mend-all';
import type { SiteReview } from './site-review';

/** A draft as the top bar shows it. */
export interface DraftView {
  readonly id: string;
  readonly name: string;
  /** What it is for, as its people say it. */
  readonly description: string;
  /** Who began it, and when. */
  readonly by: string;
  readonly at: string;
  readonly state: 'open' | 'rolling-out' | 'rolled-out' | 'discarded';
  /** Number of the last operation; an edit names the head it was made on. */
  readonly head: number;
  readonly baseRevision: number;
  /** Edits in force: those not undone. */
  readonly edits: number;
  /** Sites whose devices were told something else than the newest revision: a rollout tells them too. */
  readonly behind: number;
  readonly canUndo: boolean;
  /** Edits of the draft that an undo would take back together; 0: it would take back live ones, or none. */
  readonly undoes: number;
  /** Whether the next undo takes back an edit that is live, since the draft has none of its own left. */
  readonly undoesLive: boolean;
  readonly canRedo: boolean;
  readonly misfits: readonly MisfitView[];
}

/** Longest name of a draft, and longest description. */
export const [MOST_DRAFT_NAME, MOST_DRAFT_TEXT] = [80, 1000];

/** What people say of a draft: as they saw it, and as it is to be. */
export interface DraftChange {
  readonly from: { readonly name: string; readonly description: string };
  readonly to: { readonly name: string; readonly description: string };
}

/** An edit that no longer fits the draft's base and is left out until it is dropped. */
export interface MisfitView {
  readonly number: number;
  readonly operation: Operation;
  /** The edit in words, such as “the pool “Guests” added”. */
  readonly words: string;
  /** Whether it would fit if it were made again on what is there now. */
  readonly again: boolean;
  readonly flaws: readonly Flaw[];
}

/** A secret typed into an operation: the server keeps it and puts a reference in its place. */
export interface EditRequest {
  /** Head of the draft the editor saw. */
  readonly head: number;
  readonly operations: readonly Operation[];
  /** Values for references that the operations introduce, by id. */
  readonly secrets?: Readonly<Record<string, string>>;
}

/** One site as a draft has it, with everything a screen needs. */
export interface SiteDraft {
  readonly draft: DraftView;
  readonly estate: EstatePart;
  readonly site: SitePart;
  readonly roster: readonly RosterDevice[];
  readonly links: readonly Link[];
  /** Uplinks that are up, with the address each was given. */
  readonly uplinks: readonly UplinkAddress[];
  /** The site's VLAN pools as devices were told of them, to say how many clients a change moves. */
  readonly livePools: readonly VlanPool[];
  /**
   * The revision that its devices were told, whether that is not the newest, and the name of another draft that is being rolled
   * out here, where this one edits nothing: what changes is told by that one.
   */
  readonly told: { readonly revision: number; readonly behind: boolean; readonly by: string | null };
  readonly consequences: SentConsequences;
}

/** The sites at which a draft says something else than what is live. */
export interface TouchedSites {
  /** Head of the draft, and the revision that was live. */
  readonly head: number;
  readonly baseRevision: number;
  readonly sites: readonly TouchedSite[];
}
export interface TouchedSite {
  readonly id: string;
  readonly name: string;
  /** It says nothing else there: a guarantee of it reaches a site at which it does. */
  readonly watches?: true;
}

/** A review of a site, with who of its devices is silent now: they are told when they call. */
export interface SiteReviewView extends SiteReview {
  readonly name: string;
  readonly silent: readonly string[];
  /** Names of its segments by VLAN ID, of those that feel something. */
  readonly segments: Readonly<Record<number, string>>;
}

/** What a site comes to in a draft, in numbers. */
export interface SiteFindings {
  readonly siteId: string;
  readonly errors: number;
  readonly warnings: number;
  /** Guarantees that would be broken. */
  readonly broken: number;
  /** Ids of those that every site shares. */
  readonly sharedBroken: readonly string[];
  /** Devices that would be told something else. */
  readonly changes: number;
}

/** What all mends of a site's findings together would do, after those that were made at other sites. */
export interface SiteMends {
  readonly siteId: string;
  readonly name: string;
  readonly steps: readonly MendStep[];
  /** Findings that only a person can settle. */
  readonly left: number;
}

/** Sites that are asked after, and edits of the draft that are thought to be made already. */
export interface MendsAsked {
  readonly siteIds: readonly string[];
  readonly given: readonly Operation[];
}

/** Edits of another draft that are to be made in this one too. */
export interface TakeRequest {
  readonly from: string;
  /** Numbers of those that are meant; absent: all of them. */
  readonly only?: readonly number[];
  /** Whether one that clashes with what this draft says is made all the same, on what is there now. */
  readonly despite?: boolean;
}

/** What came of it. */
export interface TakeResult {
  readonly draft: DraftView;
  readonly taken: number;
  /** Those that do not fit, in words, with why; `again`: they would, if they were made all the same. */
  readonly left: readonly {
    readonly number: number;
    readonly words: string;
    readonly why: string;
    readonly again: boolean;
  }[];
}
