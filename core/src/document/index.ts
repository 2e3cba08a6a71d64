export * from './canonical-json';
export * from './hash';
export * from './document';
export * from './difference';
export * from './outage';
