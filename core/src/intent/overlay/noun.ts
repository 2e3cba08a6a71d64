import type { Noun } from '../noun';
import { applyOverlay } from './apply';
import type { OverlayOperation } from './operations';

export const overlay: Noun<OverlayOperation> = {
  apply: applyOverlay,
  words: ({ from, to }) =>
    from && to ? 'where networks of all sites are changed' : `the overlay ${to ? 'begun' : 'taken away'}`,
};
