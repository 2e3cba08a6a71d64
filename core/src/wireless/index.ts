export * from './wireless.contract';
export * from './scan-order';
export * from './hearing';
