export * from './radio-rules';
export * from './countries';
