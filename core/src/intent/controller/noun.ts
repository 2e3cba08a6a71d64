import type { Noun } from '../noun';
import { applyController } from './apply';
import type { ControllerOperation } from './operations';
import { controllerShapes } from './schema';

export const controller: Noun<ControllerOperation> = {
  apply: applyController,
  shapes: controllerShapes,
  words: () => 'where this controller answers changed',
};
