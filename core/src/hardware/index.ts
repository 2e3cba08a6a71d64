export * from './hardware-sheet';
export * from './sheets';
export * from './read-sheet';
