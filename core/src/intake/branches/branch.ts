import type { CheckedRow, Flaw } from '../../base';
import type { Intent, Operation, SitePart } from '../../intent';
import type { ExpectedDevice } from '../serial-list';
import type { NewSite } from '../site-founding';
import type { Coordinates } from '../coordinates';

/** Branches that are made in one go, and devices of one beside its gateway. */
export const [MOST_BRANCHES, MOST_BRANCH_DEVICES] = [200, 50];
/** Bits that the management subnet of a branch may have where it comes from a pool. */
export const [SHORTEST_FROM_POOL, LONGEST_FROM_POOL] = [16, 29];

/** What all branches of a list have in common, unless a row says otherwise. */
export interface BranchesCommon {
  /** Recipes whose segments they get, by id. */
  readonly recipeIds: readonly string[];
  /** Ids of the sites that are their hubs, the preferred first; none: they are not joined. */
  readonly hubs: readonly string[];
  /** Names of the segments that others reach; none: all that are not kept from other segments. */
  readonly shares: readonly string[];
  readonly leaves: 'here' | 'hub';
  /** Id of a site whose gateway steers as theirs is to: its courses, and how it uses its uplinks together; null: as usual. */
  readonly like: string | null;
  /** Where their routers’ addresses come from: management subnets of so many bits, one after the other; null: room of their own in the address plan. */
  readonly pool: { readonly prefix: string; readonly length: number } | null;
}

/** One thing that a branch will be, or have. */
export interface BranchPart {
  readonly what: string;
  readonly is: string;
  /** What it follows from; null: it was said. */
  readonly from: string | null;
}

/** A branch as it would be made. */
export interface BranchPlan {
  readonly siteId: string;
  readonly name: string;
  readonly parts: readonly BranchPart[];
}

/** A site that is founded for a branch. */
export interface BranchSite {
  readonly part: SitePart;
  readonly wish: NewSite;
  readonly coordinates: Coordinates | null;
}

/** All that makes branches what they are. */
export interface MadeBranches {
  readonly sites: readonly BranchSite[];
  /** Their devices, with the ids that they keep when they call. */
  readonly expected: readonly (ExpectedDevice & { readonly id: string })[];
  /** Edits of the draft. */
  readonly operations: readonly Operation[];
  /** Secrets that these refer to, by id. */
  readonly secrets: Readonly<Record<string, string>>;
}

/** A list of branches: row by row what each would be, and what would make them. */
export interface ComposedBranches {
  readonly rows: readonly CheckedRow<BranchPlan>[];
  readonly flaws: readonly Flaw[];
  /** What changes for all of them together. */
  readonly shared: readonly BranchPart[];
  readonly made: MadeBranches;
  /** What all would be then. */
  readonly after: Intent;
}

/** Branches as they are asked for: rows of cells as typed, or read from a file. */
export interface BranchesAsked {
  readonly table: readonly (readonly string[])[];
  readonly common: BranchesCommon;
}

/** What a list of branches comes to, before anything is made. */
export interface BranchesSeen {
  readonly rows: readonly CheckedRow<BranchPlan>[];
  readonly flaws: readonly Flaw[];
  readonly shared: readonly BranchPart[];
  /** Sites that would be there, boxes that would be expected, those of them that call and are taken in at once, and edits that the draft would get. */
  readonly count: {
    readonly sites: number;
    readonly devices: number;
    readonly calling: number;
    readonly edits: number;
  };
  /** What would be found at each of them once its boxes are there. */
  readonly findings: readonly BranchFindings[];
  /** Sites at which the draft would tell something because of them, with how many devices: others, and those of which boxes call. */
  readonly elsewhere: readonly BranchElsewhere[];
  /** Whether what is made is what was seen. */
  readonly basis: string;
}
export interface BranchElsewhere {
  readonly siteId: string;
  readonly name: string;
  readonly devices: number;
}
export interface BranchFindings {
  readonly siteId: string;
  readonly name: string;
  readonly found: readonly { readonly severity: 'error' | 'warning' | 'info'; readonly message: string }[];
}

export interface BranchesWanted extends BranchesAsked {
  /** Of what was seen. */
  readonly basis: string;
  /** Whether rows with flaws are left out; otherwise one bad row means that none is made. */
  readonly leaveOutBad: boolean;
}
export interface BranchesMade {
  readonly sites: number;
  readonly devices: number;
  readonly edits: number;
}
