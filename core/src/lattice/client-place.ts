import { parseMac, pickFromPool } from '../address';
import {
  asksWho,
  classOf,
  classOfOthers,
  type ClassDocument,
  type DeviceDocument,
  type KeyLed,
  type SsidDocument,
} from '../document';

/** What becomes of a client that asks to be let in. */
export interface Joined {
  /** Null: it is not let in. */
  readonly vlan: number | null;
  /** What it is given by its MAC address; absent where nobody asks for that, or it is not known. */
  readonly accessClass?: ClassDocument;
  /** Where its key of a ring led it, if it said that. */
  readonly led?: KeyLed;
}

const ofClass = (accessClass: ClassDocument): Joined => ({ vlan: accessClass.vlan, accessClass });

/**
 * The VLAN a client joins on an SSID, once it is authenticated: that of its class, else the SSID's own, which with a pool
 * follows from its MAC address.
 * @param mac canonical text; null: somebody whom nobody knows, put into the first VLAN of a pool.
 * @param led where its key of a ring leads, if it says that: nothing else counts then.
 * @param named the class that a server chose for it, which counts where the AP itself does not know it; where the SSID asks who somebody is,
 * nothing else counts: a MAC address proves nothing.
 */
export function joinsOnSsid(
  ap: DeviceDocument,
  ssid: SsidDocument,
  mac: string | null,
  led?: KeyLed,
  named?: ClassDocument,
): Joined {
  if (led?.accessClass) return { ...ofClass(led.accessClass), led };
  if (led?.at) return { vlan: led.at.vlan, led };
  const listed = mac === null || asksWho(ssid.security) ? undefined : classOf(ap, mac);
  const known = ssid.byClass ? (listed ?? named ?? classOfOthers(ap)) : undefined;
  if (known) return ofClass(known);
  const value = mac === null ? null : parseMac(mac);
  return { vlan: ssid.pool && value !== null ? pickFromPool(value, ssid.pool) : ssid.vlan };
}
