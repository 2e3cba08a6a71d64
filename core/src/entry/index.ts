export * from './entry.contract';
export * from './other-side';
export * from './outcome';
