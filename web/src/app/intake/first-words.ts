import type { FirstView } from '@iron-lattice/core/intake';

/** Factory address of a gateway, at which it shows its own page to who sits beside it. */
const FACTORY_ADDRESS = '192.168.1.1';

const WAYS: Readonly<Record<FirstView['way'], (first: FirstView) => string>> = {
  dhcp: () => 'is given an address (DHCP)',
  static: ({ fixed }) => `has ${fixed?.address ?? 'its own address'}, gateway ${fixed?.gateway ?? 'not said'}`,
  pppoe: ({ user }) => `by PPPoE as ${user ?? 'nobody'}`,
  cellular: ({ apn }) => `by the mobile network${apn === undefined ? '' : `, access point ${apn}`}`,
};

/** What was said at a gateway’s own page, in words. */
export const firstWords = (first: FirstView): string =>
  `${first.port} ${WAYS[first.way](first)}${first.vlan === undefined ? '' : `, VLAN ${first.vlan}`}`;

/** What helps a gateway to its first call where the provider gives no address by itself. */
export const NO_CALL_YET =
  `It calls by itself where its provider gives addresses (DHCP). Otherwise plug a laptop into one of its inside ports, open ` +
  `http://${FACTORY_ADDRESS} and type there what the provider gave. It stays so once it is taken in.`;
