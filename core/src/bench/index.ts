export * from './probe';
export * from './walk-step';
export * from './walk';
export { walkAsks } from './walk-entry';
export * from './bench.contract';
export * from './gets';
export * from './gets-rows';
export * from './gets.contract';
export * from './seat';
