export * from './sharing';
export * from './detection';
export * from './needs';
export * from './voice';
export * from './measuring';
export * from './targets';
export * from './health';
export * from './leaving';
