import { expect, test } from 'vitest';
import { configurationProfile, supplicantProfile, type Profile } from './profile';

const authority = '-----BEGIN CERTIFICATE-----\nQUJD\nREVG\n-----END CERTIFICATE-----\n';
const profile: Profile = {
  ...{ ssid: 'Skerrow Deck', security: 'wpa2-wpa3-enterprise' },
  server: { name: 'skerrow.radius.internal', authority },
};
const certificate = { cert: authority, key: 'KEY', pkcs12: 'UEtDUw==', password: 'tide table' };
let at = 0;
const uuid = (): string => `id-${at++}`;

test('a network block believes one authority under one name, and says nobody’s name outside the tunnel', () => {
  const text = supplicantProfile({ ...profile, user: 'marn.ellis' });
  expect(text).toContain('domain_match="skerrow.radius.internal"');
  expect(text).toContain('anonymous_identity="anonymous"');
  expect(text).toContain(`ssid=${Buffer.from('Skerrow Deck').toString('hex')}\n`);
  expect(text).toContain('ca_cert="blob://authority"');
  expect(text).toContain('blob-base64-authority={\nQUJDREVG\n}');
  expect(text).toContain('ieee80211w=1');
  expect(supplicantProfile({ ...profile, security: 'wpa3-enterprise' })).toContain('ieee80211w=2');
});

test('what people type is nothing but a name, in either file', () => {
  const ssid = '"\n}\nnetwork={ssid=x <&>';
  const user = 'marn"\nca_cert="/nowhere';
  const text = supplicantProfile({ ...profile, ssid, user, certificate });
  expect(text.match(/network=\{/g)).toHaveLength(1);
  expect(text).not.toContain('/nowhere');
  const xml = configurationProfile({ ...profile, ssid, user, certificate }, 'Skerrow & Söhne', uuid);
  expect(xml).toContain('&#60;&#38;&#62;');
  expect(xml).toContain('Skerrow &#38; Söhne');
  expect(xml).not.toContain('"\n}');
});

test('a configuration profile names the authority, the server and the way in, and holds no password', () => {
  const typed = configurationProfile(profile, 'Skerrow', uuid);
  expect(typed).toContain('<key>AcceptEAPTypes</key><array><integer>21</integer></array>');
  expect(typed).toContain('<key>TLSTrustedServerNames</key><array><string>skerrow.radius.internal</string></array>');
  const shown = configurationProfile({ ...profile, user: 'marn.ellis', certificate }, 'Skerrow', uuid);
  expect(shown).toContain('<key>AcceptEAPTypes</key><array><integer>13</integer></array>');
  expect(shown).toContain('<data>UEtDUw==</data>');
  expect(shown).not.toContain('tide table');
  // What is pointed at is there, once.
  const anchor = /<key>PayloadCertificateAnchorUUID<\/key><array><string>([^<]+)/.exec(shown)![1]!;
  expect(shown.split(`<key>PayloadUUID</key><string>${anchor}</string>`)).toHaveLength(2);
  const mine = /<key>PayloadCertificateUUID<\/key><string>([^<]+)/.exec(shown)![1]!;
  expect(shown.split(`<key>PayloadUUID</key><string>${mine}</string>`)).toHaveLength(2);
});
