export * from './entry.contract';
export * from './outcome';
