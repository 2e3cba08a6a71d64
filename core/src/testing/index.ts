export * from './random';
export * from './sample-site';
