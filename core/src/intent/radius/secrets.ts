import { flaw, type Flaw } from '../../base';
import type { SecretUse } from '../noun';
import type { RadiusOperation } from './operations';

/** Characters of a secret that is proposed, and fewest that are taken: RFC 2865 §3 wants at least 16 that nobody guesses. */
export const RADIUS_SECRET = { proposed: 32, least: 8, good: 16, most: 128 } as const;

/** The secret that an edit refers to. */
export function secretsOfRadius(operation: RadiusOperation): readonly SecretUse[] {
  if (operation.type === 'radius.remove') return [];
  const { secret } = operation.type === 'radius.add' ? operation.radius : operation.to;
  return secret ? [{ id: secret.secret, check: checkSecret }] : [];
}

function checkSecret(value: string): readonly Flaw[] {
  const { least, most } = RADIUS_SECRET;
  const size = [...value].length;
  if (size < least)
    return [
      flaw('radius.secret-short', `A secret has ${least} characters or more; ${size} are soon guessed.`, 'secret'),
    ];
  if (size > most) return [flaw('radius.secret-long', `A secret has ${most} characters at most.`, 'secret')];
  return /[\p{Cc}]/u.test(value)
    ? [flaw('radius.secret-control', 'A secret has no control characters in it.', 'secret')]
    : [];
}
