import { parseIp } from '../address';

/** Networks that ask who a client is. */
export type EnterpriseKind = 'wpa2-enterprise' | 'wpa2-wpa3-enterprise' | 'wpa3-enterprise' | 'wpa3-enterprise-192';

/** Who is asked who a client is. */
export interface HostapdServers {
  /** In the order in which they are asked; an address that is a name, or empty, is not one that hostapd takes. */
  readonly servers: readonly { readonly name: string; readonly address: string; readonly port: number }[];
  /** What the AP calls itself there. */
  readonly as: string;
  /** Whether the answer says the VLAN. */
  readonly byClass: boolean;
}

/** Stands where the secret of a server belongs: they are not written into files. */
export const NO_SECRET = 'not-written-down';

/** How keys are made, and whether frames of management are protected (0 no, 1 where the client can, 2 always). */
const KINDS: Readonly<Record<EnterpriseKind, { readonly keys: readonly string[]; readonly management: 0 | 1 | 2 }>> = {
  'wpa2-enterprise': { keys: ['WPA-EAP'], management: 0 },
  'wpa2-wpa3-enterprise': { keys: ['WPA-EAP', 'WPA-EAP-SHA256'], management: 1 },
  'wpa3-enterprise': { keys: ['WPA-EAP-SHA256'], management: 2 },
  'wpa3-enterprise-192': { keys: ['WPA-EAP-SUITE-B-192'], management: 2 },
};

/** Whether a kind of network asks who a client is. */
export const isEnterprise = (kind: string): kind is EnterpriseKind => Object.hasOwn(KINDS, kind);

/** Ciphers of 192 bits (IEEE 802.11-2020 §9.4.2.24.2: GCMP-256 for data, BIP-GMAC-256 for frames of management). */
const LONG = ['rsn_pairwise=GCMP-256', 'group_cipher=GCMP-256', 'group_mgmt_cipher=BIP-GMAC-256'];

/** What a network that asks who a client is needs in a configuration for hostapd, without secrets. @param bridge what bridges of VLANs are called. */
export function enterpriseLines(
  kind: EnterpriseKind,
  { asks, roam = [] }: { readonly asks?: HostapdServers; readonly roam?: readonly string[] },
  bridge: string,
): string[] {
  const { keys, management } = KINDS[kind];
  const long = kind === 'wpa3-enterprise-192';
  const fast = roam.includes('r') ? [long ? 'FT-EAP-SHA384' : 'FT-EAP'] : [];
  return [
    'wpa=2',
    'ieee8021x=1',
    `wpa_key_mgmt=${[...keys, ...fast].join(' ')}`,
    ...(long ? LONG : ['rsn_pairwise=CCMP']),
    `ieee80211w=${management}`,
    ...(asks ? serverLines(asks, fast.length > 0) : []),
    ...(asks?.byClass ? ['dynamic_vlan=1', 'vlan_naming=1', `vlan_bridge=${bridge}`] : []),
  ];
}

/** Who is asked. @param named whether its name is said otherwise. */
export const serverLines = ({ servers, as }: HostapdServers, named: boolean): string[] => [
  ...(named ? [] : [`nas_identifier=${plain(as)}`]),
  ...servers.flatMap(({ name, address, port }) =>
    parseIp(address)
      ? [`auth_server_addr=${address}`, `auth_server_port=${port}`, `auth_server_shared_secret=${NO_SECRET}`]
      : [`# ${plain(name)} is asked as well: hostapd takes an address, no name`],
  ),
];

const plain = (text: string): string => text.replace(/\p{C}/gu, '?');
