import { flaw, type Flaw } from '../../base';
import type { SecretUse } from '../noun';
import type { MemberOperation } from './operations';

/** A key of Curve25519 in base64: 32 octets. */
export const OVERLAY_KEY = /^[A-Za-z0-9+/]{42}[AEIMQUYcgkosw048]=$/;

/** The private key that an edit refers to. */
export function secretsOfMember(operation: MemberOperation): readonly SecretUse[] {
  if (operation.type === 'member.remove') return [];
  const { key } = operation.type === 'member.add' ? operation.member : operation.to;
  return key ? [{ id: key.secret, check: checkKey }] : [];
}

const checkKey = (value: string): readonly Flaw[] =>
  OVERLAY_KEY.test(value)
    ? []
    : [flaw('member.key', 'This is no key of a tunnel: let the controller make one.', 'key')];
