export * from './compile';
export * from './hours';
export * from './policy';
export * from './rollout-order';
export * from './rollout.contract';
export * from './step-count';
export * from './wave.contract';
export * from './waves';
