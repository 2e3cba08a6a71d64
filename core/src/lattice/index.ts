export * from './strand';
export * from './segment-proposal';
export * from './lattice-grid';
export * from './segment-mark';
