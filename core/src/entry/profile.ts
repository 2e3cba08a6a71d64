import type { EnterpriseSecurity } from '../document';
import { octetsOfText } from '../radius';
import type { MadeCertificate, TrustedServer } from './certificate.contract';

/** What a client is told once, to join an SSID: whom it believes, and how it says who it is. */
export interface Profile {
  readonly ssid: string;
  readonly security: EnterpriseSecurity;
  readonly server: TrustedServer;
  /** Whoever it is for; absent: anybody, who types name and password. */
  readonly user?: string;
  /** By it one signs in (EAP-TLS); absent: by a password (EAP-TTLS with PAP). */
  readonly certificate?: Pick<MadeCertificate, 'cert' | 'key' | 'pkcs12' | 'password'>;
}

/** What an authenticator’s key management is called there (IEEE 802.11-2020 §9.4.2.24.3). */
const KEY_MANAGEMENT: Readonly<Record<EnterpriseSecurity, string>> = {
  'wpa2-enterprise': 'WPA-EAP WPA-EAP-SHA256',
  'wpa2-wpa3-enterprise': 'WPA-EAP WPA-EAP-SHA256',
  'wpa3-enterprise': 'WPA-EAP-SHA256',
  'wpa3-enterprise-192': 'WPA-EAP-SUITE-B-192',
};

/** Octets of text in hex, as an SSID or a name is written that may have any sign in it. */
const hexOf = (text: string): string =>
  [...octetsOfText(text)].map((octet) => octet.toString(16).padStart(2, '0')).join('');
/** What is between the lines of a PEM. */
const derOf = (pem: string): string => pem.replace(/-----[^-]+-----/g, '').replace(/\s+/g, '');

/**
 * A network block for wpa_supplicant, all of it in one file: the certificates stand in it. Names are in hex where they could be taken for
 * something else. Believes the server by authority and name, and nobody else; says its name inside the tunnel alone.
 */
export function supplicantProfile({ ssid, security, server, user, certificate }: Profile): string {
  const who = certificate
    ? [
        ...['eap=TLS', `identity=${hexOf(user ?? '')}`, 'client_cert="blob://cert"', 'private_key="blob://key"'],
        `private_key_passwd="${certificate.password}"`,
      ]
    : [
        ...['eap=TTLS', 'phase2="auth=PAP"', 'anonymous_identity="anonymous"'],
        ...(user === undefined ? ['identity="…"', 'password="…"'] : [`identity=${hexOf(user)}`, 'password="…"']),
      ];
  const blobs: readonly (readonly [string, string])[] = [
    ['authority', derOf(server.authority)],
    ...(certificate
      ? ([
          ['cert', derOf(certificate.cert)],
          ['key', certificate.pkcs12],
        ] as const)
      : []),
  ];
  const strict = security.startsWith('wpa3');
  return [
    'network={',
    ...[
      `ssid=${hexOf(ssid)}`,
      `key_mgmt=${KEY_MANAGEMENT[security]}`,
      ...(security === 'wpa3-enterprise-192'
        ? ['pairwise=GCMP-256', 'group=GCMP-256', 'group_mgmt=BIP-GMAC-256', 'openssl_ciphers="SUITEB192"']
        : []),
      `ieee80211w=${strict ? 2 : 1}`,
      ...who,
      'ca_cert="blob://authority"',
      `domain_match="${server.name}"`,
    ].map((line) => `  ${line}`),
    '}',
    ...blobs.flatMap(([name, data]) => ['', `blob-base64-${name}={`, ...(data.match(/.{1,64}/g) ?? []), '}']),
    '',
  ].join('\n');
}

/** Signs that mean something in XML 1.0 (§2.4), and those that it has no place for (§2.2). */
const xmlText = (text: string): string =>
  text
    // eslint-disable-next-line no-control-regex
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '')
    .replace(/[&<>"']/g, (sign) => `&#${sign.charCodeAt(0)};`);

type Plist =
  string | number | boolean | { readonly data: string } | readonly Plist[] | { readonly [key: string]: Plist };
function plistOf(value: Plist): string {
  if (typeof value === 'string') return `<string>${xmlText(value)}</string>`;
  if (typeof value === 'number') return `<integer>${value}</integer>`;
  if (typeof value === 'boolean') return value ? '<true/>' : '<false/>';
  if (Array.isArray(value)) return `<array>${value.map(plistOf).join('')}</array>`;
  const fields = value as { readonly [key: string]: Plist };
  if (typeof fields['data'] === 'string' && Object.keys(fields).length === 1) return `<data>${fields['data']}</data>`;
  return `<dict>${Object.entries(fields)
    .map(([key, each]) => `<key>${xmlText(key)}</key>${plistOf(each)}`)
    .join('')}</dict>`;
}

/**
 * A configuration profile as phones and computers take it (.mobileconfig, a property list): the authority, the certificate where there is
 * one, and the SSID. @param uuid makes one that nobody else has. @param estate who gives it out.
 */
export function configurationProfile(profile: Profile, estate: string, uuid: () => string): string {
  const { ssid, security, server, user, certificate } = profile;
  const ids = { all: uuid(), authority: uuid(), own: uuid(), wifi: uuid() };
  const payload = (type: string, id: string, name: string, more: Readonly<Record<string, Plist>>): Plist => ({
    ...{ PayloadType: type, PayloadVersion: 1, PayloadUUID: id, PayloadIdentifier: `${server.name}.${id}` },
    ...{ PayloadDisplayName: name, ...more },
  });
  const client: Plist = {
    AcceptEAPTypes: [certificate ? 13 : 21],
    ...(certificate ? {} : { TTLSInnerAuthentication: 'PAP', OuterIdentity: 'anonymous' }),
    ...(user === undefined ? {} : { UserName: user }),
    PayloadCertificateAnchorUUID: [ids.authority],
    TLSTrustedServerNames: [server.name],
  };
  const content: Plist[] = [
    payload('com.apple.security.root', ids.authority, `Authority of ${estate}`, {
      PayloadContent: { data: derOf(server.authority) },
    }),
    ...(certificate
      ? [
          payload('com.apple.security.pkcs12', ids.own, `Certificate of ${user ?? ''}`, {
            PayloadContent: { data: certificate.pkcs12 },
          }),
        ]
      : []),
    payload('com.apple.wifi.managed', ids.wifi, ssid, {
      ...{ SSID_STR: ssid, HIDDEN_NETWORK: false, AutoJoin: true },
      EncryptionType: security.startsWith('wpa3') ? 'WPA3' : 'WPA2',
      EAPClientConfiguration: client,
      ...(certificate ? { PayloadCertificateUUID: ids.own } : {}),
    }),
  ];
  const all: Plist = {
    ...{ PayloadType: 'Configuration', PayloadVersion: 1, PayloadUUID: ids.all, PayloadIdentifier: server.name },
    ...{ PayloadDisplayName: `${ssid}, ${estate}`, PayloadOrganization: estate, PayloadContent: content },
  };
  return `<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">${plistOf(all)}</plist>\n`;
}
