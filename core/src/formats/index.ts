export * from './pcapng';
