export * from './compile';
export * from './rollout-order';
export * from './rollout.contract';
export * from './policy';
