export * from './radio-rules';
export * from './countries';
export * from './legal-blocks';
export * from './radar';
export * from './allowed';
