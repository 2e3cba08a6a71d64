import type { EXCEPTABLE, Ssid } from './ssid';

/** What people call a field of which a site may say something of its own. */
export const EXCEPTION_WORDS: Readonly<Record<(typeof EXCEPTABLE)[number], string>> = {
  off: 'whether it is sent',
  segment: 'segment',
  tunnel: 'way to its segment',
  passphrase: 'passphrase',
  bands: 'bands',
  hours: 'hours',
  caps: 'caps',
  join: 'lowest signal to join',
  stay: 'lowest signal to stay',
  most: 'most clients',
  hidden: 'hidden name',
  steer: 'steering',
  multicast: 'multicast',
};

/** An SSID as a site has it: with what is said there otherwise. Where a site has its own passphrase there is none of before. */
export function ssidAt(ssid: Ssid, siteId: string): Ssid {
  const { exceptions, ...shared } = ssid;
  if (exceptions === undefined) return ssid;
  const here = exceptions?.[siteId];
  if (!here) return shared;
  const { former: _former, ...rest } = shared;
  return { ...(here.passphrase ? rest : shared), ...here };
}
