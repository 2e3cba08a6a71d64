import { flaw } from '../../base';
import { MOST_ISSUER } from '../../guests';
import type { SecretUse } from '../noun';
import type { PortalOperation } from './operations';

/** The secret by which a portal proves itself to whoever keeps accounts. */
export function secretsOfPortal(operation: PortalOperation): readonly SecretUse[] {
  if (operation.type === 'portal.remove') return [];
  const { account } = operation.type === 'portal.add' ? operation.portal : operation.to;
  if (!account?.secret) return [];
  const check = (value: string) =>
    value.length > MOST_ISSUER.secret || /[\p{Cc}]/u.test(value)
      ? [flaw('portal.account-secret', `At most ${MOST_ISSUER.secret} plain characters.`, 'account.secret')]
      : [];
  return [{ id: account.secret.secret, check }];
}
