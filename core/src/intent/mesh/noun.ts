import type { Noun } from '../noun';
import { applyMesh, meshWords } from './apply';
import type { MeshOperation } from './operations';
import { meshShapes } from './schema';
import { secretsOfMesh } from './secrets';

export const mesh: Noun<MeshOperation> = {
  apply: applyMesh,
  shapes: meshShapes,
  words: meshWords,
  secrets: secretsOfMesh,
};
