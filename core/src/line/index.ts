export * from './frame';
