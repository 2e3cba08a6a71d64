export * from './token-bucket';
export * from './fair-share';
export * from './caps';
