export * from './token-bucket';
export * from './fair-share';
export * from './caps';
export * from './marking';
