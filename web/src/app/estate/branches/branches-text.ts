import { BRANCH_COLUMNS, type BranchColumn, type BranchesCommon } from '@iron-lattice/core/intake';
import type { EstatePart } from '@iron-lattice/core/intent';

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

/** What is wrong with a column of the one branch, or with what all have; empty: nothing. */
export type FlawOf = (field: BranchColumn | 'pool') => string;

/** What branches have until somebody says otherwise: all recipes, and the hubs that most joined sites have, in their order. */
export function usualOf(estate: EstatePart | null): Pick<CommonText, 'recipeIds' | 'hubs'> {
  const { recipes = [], members = [] } = estate ?? {};
  const sites = new Map(members.flatMap(({ id, siteId, role }) => (role === 'hub' ? [[id, siteId] as const] : [])));
  const counts = new Map<string, number>();
  for (const { role, hubs } of members)
    if (role === 'spoke') counts.set(hubs.join(), (counts.get(hubs.join()) ?? 0) + 1);
  const [most] = [...counts].sort(([, a], [, b]) => b - a);
  const ids = most ? most[0].split(',') : [...sites.keys()].slice(0, 2);
  return { recipeIds: recipes.map(({ id }) => id), hubs: ids.flatMap((id) => sites.get(id) ?? []) };
}
