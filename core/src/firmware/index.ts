export * from './version';
export * from './release';
export * from './update-window';
export * from './firmware.contract';
