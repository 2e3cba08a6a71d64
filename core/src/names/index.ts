export { readName, shownName } from './domain-name';
export * from './name-set';
export * from './read-list';
export * from './compare';
