export * from './hardware-sheet';
export * from './sheets';
