export * from './token-bucket';
export * from './fair-share';
