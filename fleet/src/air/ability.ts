import { fnv1a32 } from '@iron-lattice/core/address';
import { asksPassphrase, asksWho, type SsidDocument } from '@iron-lattice/core/document';
import type { Band } from '@iron-lattice/core/hardware';
import type { Phy, Width } from '@iron-lattice/core/radio';

/** What a client's radio can do. */
export interface AirAbility {
  readonly bands?: readonly Band[];
  readonly phy?: Phy;
  readonly streams?: number;
  readonly width?: Width;
  readonly old?: boolean;
  readonly likes?: Band;
  /** What it was told to give; absent: it looks for a network that asks for nothing. */
  readonly passphrase?: string;
  /** How it says who it is, where it is to join a network that asks; absent: it looks for one that does not. */
  readonly enters?: { readonly method: string };
  /** It knows the passphrase that was right before. */
  readonly former?: boolean;
}
/** What of an SSID decides who joins it where. */
export type JoinedSsid = Pick<SsidDocument, 'bands' | 'security' | 'former' | 'join' | 'stay' | 'steer' | 'roam'>;

/** Whether a client can do what an SSID asks for, and is told to. @param asks what it asks for at a band on a day. */
export function understands(
  { old = false, former = false, passphrase, enters }: AirAbility,
  phy: Phy,
  { roam = [] }: Pick<JoinedSsid, 'roam'>,
  asks: JoinedSsid['security'],
): boolean {
  if (asksWho(asks) && !enters) return false;
  if (!asksWho(asks) && asksPassphrase(asks) !== (passphrase !== undefined)) return false;
  // Of 192 bits clients prove themselves by certificates alone (WPA3 specification §3.5).
  if (asks === 'wpa3-enterprise-192' && enters?.method !== 'eap-tls') return false;
  // Clients of 802.11n take what they do not know of for another network.
  if (roam.includes('r') && phy === 'HT') return false;
  const recent = asks === 'owe' || asks === 'wpa3-sae' || asks === 'wpa3-enterprise' || asks === 'wpa3-enterprise-192';
  return !(recent && (old || former));
}

/** What a client's radio can do: as it is said, else as such things usually can, the same for the same MAC address. */
export function abilityOf(
  mac: string,
  said: AirAbility,
): Required<Pick<AirAbility, 'bands' | 'phy' | 'streams' | 'width'>> {
  const dice = fnv1a32(new TextEncoder().encode(mac)) % 100;
  return {
    bands: said.bands ?? (dice % 10 < 3 ? ['2.4', '5', '6'] : ['2.4', '5']),
    phy: said.phy ?? (dice % 7 < 2 ? 'VHT' : 'HE'),
    streams: said.streams ?? (dice % 5 === 0 ? 1 : 2),
    width: said.width ?? (dice % 10 < 2 ? 160 : 80),
  };
}
