import { flaw, type Flaw } from '../../base';
import type { SecretUse } from '../noun';
import type { MeshOperation } from './operations';

/** Characters of the key by which APs of a site know each other. Nobody types it, so that it may be long. */
export const MESH_KEY_LENGTH = 32;

/** The key that an edit refers to. */
export function secretsOfMesh(operation: MeshOperation): readonly SecretUse[] {
  if (operation.type === 'mesh.set' || !operation.to) return [];
  return [{ id: operation.to.key.secret, check: checkKey }];
}

const checkKey = (value: string): readonly Flaw[] =>
  /^[!-~]{32,63}$/.test(value)
    ? []
    : [flaw('mesh.key', `The key between APs has ${MESH_KEY_LENGTH} to 63 characters without blanks.`, 'key')];
