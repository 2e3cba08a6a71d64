import { asksWho } from '@iron-lattice/core/document';
import { joinsOnSsid } from '@iron-lattice/core/lattice';
import type { Box } from './box';
import { entersSsid } from './door';
import { askedKey, givenKey, type Admitted } from './keys';
import { namedBy, type Namer } from './named';
import { sentNow } from './on-hours';
import type { AirClient } from './world-file';

/** What an AP makes of a client on the air: which VLAN it joins, or why none, of which class it is, and which portal a server names. */
export function admission(box: Box, client: AirClient, namer: Namer, others?: ReadonlyMap<string, number>): Admitted {
  const ssid = sentNow(box).find((each) => each.name === client.ssid);
  if (!ssid) return { vlan: null, why: 'passphrase' };
  if (asksWho(ssid.security)) return entersSsid(box, ssid, client, namer);
  const given = ssid.ring?.asked
    ? askedKey(box, { ...ssid, ring: ssid.ring }, client, namer)
    : givenKey(box, ssid, client, others);
  if (given.why !== undefined) return { ...given, vlan: null };
  const asks = ssid.byClass && !given.led && !ssid.ring?.asked;
  const named = asks ? namer.of(box, client.mac, ssid.name) : undefined;
  const { vlan, accessClass } = joinsOnSsid(box.document, ssid, client.mac, given.led, named?.accessClass);
  const portal = asks ? namer.portalOf(box, client.mac) : undefined;
  return { ...given, ...namedBy(named), ...(portal ? { portal } : {}), vlan, accessClass };
}
