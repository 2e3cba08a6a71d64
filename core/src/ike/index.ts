export * from './transforms';
export * from './agree';
export * from './packet';
export * from './selectors';
export * from './steps';
export * from './name';
