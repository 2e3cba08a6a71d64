export * from './space';
export * from './service';
export * from './packet-rule';
export * from './decider';
export * from './anomalies';
export * from './flow';
export * from './reach';
