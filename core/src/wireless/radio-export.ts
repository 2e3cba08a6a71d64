import { asksWho, type ApDocument, type SsidDocument } from '../document';
import { writeHostapd, type HostapdBss } from '../formats';
import type { Band } from '../hardware';
import { bandSetting, radioSetting, USUAL_BANDS, type RosterDevice, type SitePart } from '../intent';

/** Where the keys of a ring lie beside the configuration; they are saved by themselves. */
export const PSK_FILE = 'ring.psk';

/**
 * A radio of an AP, and what it sends, as a configuration for hostapd.
 * @param document what the AP is told.
 * @returns null where it sends nothing at that band.
 */
export function hostapdOf(site: SitePart, device: RosterDevice, document: ApDocument, band: Band): string | null {
  const { on, at, choices, eirp } = radioSetting(site, device, band);
  const tuned = at ?? choices[0];
  const { slowest } = bandSetting(site, band);
  const sent = document.ssids.filter(({ bands }) => bands.includes(band));
  if (!on || !tuned || eirp === null || sent.length === 0) return null;
  const { channel, width, block } = tuned;
  return writeHostapd(
    {
      ...{
        interface: `wlan${['2.4', '5', '6'].indexOf(band)}`,
        mac: device.mac ?? '02:00:00:00:00:00',
        country: site.country,
      },
      ...{ band, channel, centre: block.centre, width, power: eirp, radar: block.duty.radar },
      choices: at ? [] : choices.map((each) => each.channel),
      ...(slowest === USUAL_BANDS[band].slowest ? {} : { slowest }),
    },
    sent.map(({ name: ssid, isolated = false, former, ring, tunnel, ...rest }) => {
      const at = ring?.asked ? { keysAsked: true } : ring ? { pskFile: PSK_FILE } : {};
      const keys = { ...(former ? { formerUntil: former.until } : {}), ...at };
      const far = (document.landings ?? []).findIndex(({ to }) => to === tunnel);
      const inside = far < 0 ? (tunnel ? { tunnel: true } : {}) : { far: far + 1 };
      return { ssid, isolated, ...rest, ...inside, ...keys, ...askedBy(document, rest, ring?.asked ?? false) };
    }),
  );
}

/** Who is asked who its clients are. @param keys whether it is for keys, by MAC address. */
const askedBy = (
  { device, radius }: ApDocument,
  { security, byClass }: Pick<SsidDocument, 'security' | 'byClass'>,
  keys: boolean,
): Pick<HostapdBss, 'asks'> => {
  if (!asksWho(security) && !keys) return {};
  const servers = (radius?.servers ?? [])
    .filter(({ macs, own }) => !keys || (macs !== undefined && !own))
    .sort((a, b) => a.order - b.order);
  return { asks: { servers, as: device.name, byClass: byClass === true } };
};
