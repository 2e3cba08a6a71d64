export * from './finding';
export * from './consequences';
export * from './draft.contract';
