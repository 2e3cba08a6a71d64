import type { SecretUse } from '../noun';
import { checkPassphrase } from './check';
import type { SsidOperation } from './operations';

/** The passphrase that an edit of an SSID refers to. */
export function secretsOfSsid(operation: SsidOperation): readonly SecretUse[] {
  if (operation.type === 'ssid.remove') return [];
  const said = operation.type === 'ssid.add' ? operation.ssid : operation.to;
  const { passphrase, former, security = 'wpa2-wpa3-psk' } = said;
  // One that nothing asks for now is kept for when something does.
  return [
    ...(passphrase ? [{ id: passphrase.secret, check: (value: string) => checkPassphrase(value, security) }] : []),
    // Judged when it was said.
    ...(former ? [{ id: former.secret, check: () => [] }] : []),
  ];
}
