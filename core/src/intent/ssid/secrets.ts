import type { SecretUse } from '../noun';
import { checkPassphrase } from './check';
import type { SsidOperation } from './operations';

/** The passphrase that an edit of an SSID refers to. */
export function secretsOfSsid(operation: SsidOperation): readonly SecretUse[] {
  if (operation.type === 'ssid.remove') return [];
  const said = operation.type === 'ssid.add' ? operation.ssid : operation.to;
  const { passphrase, former, exceptions, security = 'wpa2-wpa3-psk' } = said;
  const own = Object.values(exceptions ?? {}).flatMap((here) => here.passphrase ?? []);
  // One that nothing asks for now is kept for when something does.
  return [
    ...[...(passphrase ? [passphrase] : []), ...own].map(({ secret }) => ({
      id: secret,
      check: (value: string) => checkPassphrase(value, security),
    })),
    // Judged when it was said.
    ...(former ? [{ id: former.secret, check: () => [] }] : []),
  ];
}
