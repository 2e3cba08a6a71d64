import { flaw, type Flaw } from '../../base';
import type { SecretUse } from '../noun';
import type { UplinkOperation } from './operations';

/** The password for a provider that an edit refers to. */
export function secretsOfUplink(operation: UplinkOperation): readonly SecretUse[] {
  if (operation.type !== 'uplink.set' || !operation.to?.login) return [];
  return [{ id: operation.to.login.password.secret, check: passwordFlaws }];
}

/** A PAP or CHAP password has a length of one octet (RFC 1334 §2.2.1). */
export const passwordFlaws = (value: string): readonly Flaw[] =>
  /^[!-~ ]{1,128}$/.test(value)
    ? []
    : [flaw('uplink.password', 'The provider’s password has 1 to 128 plain characters.', 'login')];
