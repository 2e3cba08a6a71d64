export * from './captive';
export * from './day-window';
export * from './quota';
export * from './visit-code';
