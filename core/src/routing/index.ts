export * from './route-table';
export * from './route-walk';
export * from './open-table';
export * from './next-hop';
export * from './redistribute';
export * from './overlay-path';
export * from './network-check';
export * from './gateway-table';
