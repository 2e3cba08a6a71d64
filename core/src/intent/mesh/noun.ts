import type { Noun } from '../noun';
import { applyMesh, meshWords } from './apply';
import type { MeshOperation } from './operations';
import { secretsOfMesh } from './secrets';

export const mesh: Noun<MeshOperation> = {
  apply: applyMesh,
  words: meshWords,
  secrets: secretsOfMesh,
};
