export * from './phy';
export * from './link';
export * from './throughput';
export * from './sharing';
export * from './width';
export * from './channel';
export * from './overlap';
export * from './channel-plan';
