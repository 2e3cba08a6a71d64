import type { Noun } from '../noun';
import { applyController } from './apply';
import type { ControllerOperation } from './operations';

export const controller: Noun<ControllerOperation> = {
  apply: applyController,
  words: () => 'where this controller answers changed',
};
