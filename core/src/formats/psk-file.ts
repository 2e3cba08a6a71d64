/** A key as hostapd reads it. */
export interface PskLine {
  /** Whom it is for. */
  readonly name: string;
  /** Pairwise master key: 64 hex digits. */
  readonly key: string;
  /** VLAN it leads to; null: the network's own. */
  readonly vlan: number | null;
  /** MAC addresses it is bound to; none: any. */
  readonly macs: readonly string[];
}

/** What hostapd takes for any MAC address. */
const ANY = '00:00:00:00:00:00';

/**
 * Writes keys as a `wpa_psk_file` of hostapd: a line for each key and MAC address, with the VLAN and a name by which it logs the key. Those that
 * are bound come first: hostapd takes the first that fits.
 */
export function writePskFile(keys: readonly PskLine[]): string {
  const bound = (key: PskLine): number => (key.macs.length > 0 ? 0 : 1);
  const lines = [...keys]
    .sort((a, b) => bound(a) - bound(b))
    .flatMap(({ name, key, vlan, macs }, i) => {
      const tags = [`keyid=k${i + 1}`, ...(vlan === null ? [] : [`vlanid=${vlan}`])].join(' ');
      return [`# k${i + 1}: ${plain(name)}`, ...(macs.length > 0 ? macs : [ANY]).map((mac) => `${tags} ${mac} ${key}`)];
    });
  return lines.map((line) => `${line}\n`).join('');
}

/** What may stand in a comment of its own line. */
const plain = (text: string): string => text.replace(/[^\x20-\x7e]/g, '?');
