export * from './branch';
export { BRANCH_COLUMNS, BRANCH_SAMPLE, type BranchColumn } from './branch-list';
export { composeBranches, type BranchMeans } from './compose';
