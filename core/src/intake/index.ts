export * from './device-name';
export * from './site-code';
export * from './site-founding';
export * from './device-state';
export * from './intake.contract';
