export * from './wireless.contract';
export * from './scan-order';
export * from './hearing';
export * from './others';
export * from './block-costs';
export * from './width-gain';
export * from './site-plan';
export * from './heard-networks';
