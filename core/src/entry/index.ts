export * from './entry.contract';
export * from './freeradius';
export * from './other-side';
export * from './outcome';
export * from './unknown-words';
