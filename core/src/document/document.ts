import type { SecretRef } from '../base';
import type { Band } from '../hardware';

/** How clients of an SSID prove the passphrase: PSK alone, SAE alone, or either (transition mode). */
export type SsidSecurity = 'wpa2-psk' | 'wpa2-wpa3-psk' | 'wpa3-sae';

/** What a port carries, by VLAN ID; `null` untagged means that untagged frames are dropped. */
export interface PortDocument {
  readonly name: string;
  readonly untagged: number | null;
  /** Ascending. */
  readonly tagged: readonly number[];
}

/** A device's own fixed address. */
export interface ManagementAddress {
  readonly address: string;
  /** Bits of the network. */
  readonly length: number;
  readonly gateway: string;
  readonly dns: readonly string[];
}

interface CommonDocument {
  readonly format: 'iron-lattice.document/1';
  readonly device: { readonly name: string; readonly serial: string; readonly model: string };
  readonly site: { readonly name: string; readonly country: string; readonly timeZone: string };
  /** VLAN the device itself lives in, and its address there; absent: it asks for one (DHCP). */
  readonly management: { readonly vlan: number; readonly address?: ManagementAddress };
  /** Only said when the status light is to stay off. */
  readonly light?: 'off';
  readonly ports: readonly PortDocument[];
}

/** A gateway's own address in a VLAN, with the prefix length. */
export interface GatewayInterface {
  readonly vlan: number;
  readonly name: string;
  readonly address: string;
}

/** One DHCP service (RFC 2131). */
export interface AddressServiceDocument {
  readonly vlan: number;
  readonly subnet: string;
  readonly first: string;
  readonly last: string;
  readonly gateway: string;
  readonly dns: readonly string[];
  readonly leaseSeconds: number;
}

export interface UplinkDocument {
  readonly port: string;
  readonly method: 'dhcp';
  /** Whether addresses from inside are translated on the way out (RFC 3022). */
  readonly translate: boolean;
}

export interface GatewayDocument extends CommonDocument {
  readonly kind: 'gateway';
  readonly interfaces: readonly GatewayInterface[];
  readonly addressServices: readonly AddressServiceDocument[];
  readonly uplinks: readonly UplinkDocument[];
}

export interface SwitchDocument extends CommonDocument {
  readonly kind: 'switch';
  readonly vlans: readonly { readonly vlan: number; readonly name: string }[];
}

export interface SsidDocument {
  readonly id: string;
  readonly name: string;
  readonly security: SsidSecurity;
  readonly passphrase: SecretRef;
  readonly bands: readonly Band[];
  readonly vlan: number;
}

export interface ApDocument extends CommonDocument {
  readonly kind: 'ap';
  readonly ssids: readonly SsidDocument[];
}

/** All that one device is told; its identity is the hash of its canonical JSON. */
export type DeviceDocument = GatewayDocument | SwitchDocument | ApDocument;

/** The ids of the secrets a document refers to, each once, sorted. */
export function secretsOf(document: DeviceDocument): string[] {
  if (document.kind !== 'ap') return [];
  return [...new Set(document.ssids.map((ssid) => ssid.passphrase.secret))].sort();
}
