export * from './canonical-json';
export * from './hash';
export * from './document';
export * from './ring';
export * from './difference';
export * from './outage';
export * from './tunnel';
