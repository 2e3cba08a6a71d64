export { randomFrom } from '../base';
export * from './sample-site';
export * from './sample-pair';
export * from './random-site';
export * from './rich-segments';
export * from './random-rules';
export { applied, appliedWith, refusedWith } from './applied';
export * from './sample-sites';
