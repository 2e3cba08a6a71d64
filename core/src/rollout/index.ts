export * from './compile';
export * from './rollout-order';
export * from './rollout.contract';
export * from './compile-policy';
export * from './rule-place';
