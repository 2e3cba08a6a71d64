export * from './finding';
export * from './consequences';
export * from './draft.contract';
export type { UplinkAddress } from './check';
export * from './mend-all';
