import { flaw, type Flaw } from '../../base';
import type { SecretUse } from '../noun';
import type { PactOperation } from './operations';
import { LEAST_KEY, MOST_KEY } from './pact';

/** The key that an edit refers to. */
export function secretsOfPact(operation: PactOperation): readonly SecretUse[] {
  if (operation.type === 'pact.remove') return [];
  const { key } = operation.type === 'pact.add' ? operation.pact : operation.to;
  return key ? [{ id: key.secret, check: checkKey }] : [];
}

/** Who hears an exchange tries keys at home as fast as a machine can (RFC 7296 §2.15): it has to be long, and what any box takes. */
const checkKey = (value: string): readonly Flaw[] =>
  new RegExp(`^[!-~]{${LEAST_KEY},${MOST_KEY}}$`).test(value) && !value.includes('"')
    ? []
    : [
        flaw(
          'pact.key',
          `The key has ${LEAST_KEY} to ${MOST_KEY} characters: letters, digits and signs, without blanks or quotes. Let the controller make one.`,
          'key',
        ),
      ];
