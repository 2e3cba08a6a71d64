export * from './transforms';
export * from './agree';
export * from './packet';
export * from './selectors';
export * from './asking';
export * from './name';
