export * from './probe';
export * from './walk-step';
export * from './walk';
export * from './bench.contract';
export * from './seat';
