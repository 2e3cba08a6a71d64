export * from './compile';
export * from './rollout-order';
export * from './rollout.contract';
export * from './policy';
export * from './step-count';
export * from './wave.contract';
export * from './waves';
