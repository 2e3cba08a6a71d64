export * from './route-table';
export * from './route-walk';
