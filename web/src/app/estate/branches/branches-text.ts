import { BRANCH_COLUMNS, type BranchColumn, type BranchesCommon } from '@iron-lattice/core/intake';

/** One branch as it is typed. */
export type BranchText = Readonly<Record<BranchColumn, string>>;
export const NO_BRANCH = Object.fromEntries(BRANCH_COLUMNS.map(({ key }) => [key, ''])) as BranchText;

/** What branches have in common, as it is typed. */
export interface CommonText {
  readonly recipeIds: readonly string[];
  readonly hubs: readonly string[];
  readonly shares: string;
  readonly leaves: BranchesCommon['leaves'];
  readonly like: string | null;
  readonly pool: string;
  readonly length: number;
}
export const NO_COMMON: CommonText = {
  ...{ recipeIds: [], hubs: [], shares: '', leaves: 'here', like: null, pool: '', length: 26 },
};

/** A branch as a list of one. */
export const tableOfOne = (text: BranchText): string[][] => [
  BRANCH_COLUMNS.map(({ headings }) => headings[0]!),
  BRANCH_COLUMNS.map(({ key }) => text[key].trim()),
];

export const commonTyped = ({ shares, pool, length, ...common }: CommonText): BranchesCommon => ({
  ...common,
  shares: shares
    .split(/[;,]/)
    .map((each) => each.trim())
    .filter((each) => each !== ''),
  pool: pool.trim() === '' ? null : { prefix: pool.trim(), length },
});
