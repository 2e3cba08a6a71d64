import type { SecretUse } from '../noun';
import { checkPassphrase } from './check';
import type { SsidOperation } from './operations';

/** The passphrase that an edit of an SSID refers to. */
export function secretsOfSsid(operation: SsidOperation): readonly SecretUse[] {
  if (operation.type === 'ssid.remove') return [];
  const { passphrase, security = 'wpa2-wpa3-psk' } = operation.type === 'ssid.add' ? operation.ssid : operation.to;
  // One that nothing asks for now is kept for when something does.
  return passphrase ? [{ id: passphrase.secret, check: (value) => checkPassphrase(value, security) }] : [];
}
