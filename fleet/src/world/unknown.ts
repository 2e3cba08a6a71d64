import { asksWho } from '@iron-lattice/core/document';
import type { ClientReport, UnknownReport } from '@iron-lattice/core/line';
import type { Box } from './box';
import type { Namer } from './named';
import { sentNow } from './on-hours';
import type { PortClient } from './port-door';
import type { WiredClient } from './world-file';

/** Clients that nobody knows, of one report. */
const MOST_UNKNOWN = 256;

/** What of the world is looked at for it. */
interface Around {
  comersAt(box: Box): readonly { readonly client: WiredClient; readonly port: string; readonly at: PortClient }[];
  readonly namer: Namer;
  clientsOf(serial: string): readonly ClientReport[];
  sinceAt(mac: string, place: string): number;
}

/** Clients that a box asks who they are, and that nobody knows: at its ports, and on SSIDs whose own segment they join. */
export function unknownAt(box: Box, around: Around): UnknownReport[] {
  const { powered } = box;
  const { namer } = around;
  const { serial } = box.device;
  if (!powered) return [];
  const wired = around.comersAt(box).flatMap(({ client: { mac, at: where, enters }, port, at }): UnknownReport[] => {
    const { unknown, vlan } = at;
    const said = { ...(enters ? { user: enters.user } : {}), ...(vlan === null ? {} : { vlan }) };
    return unknown ? [{ mac, port, ...unknown, ...said, since: around.sinceAt(mac, `${where} unknown`) }] : [];
  });
  const asked = new Set(
    sentNow(box).flatMap(({ name, byClass, security }) => (byClass && !asksWho(security) ? [name] : [])),
  );
  if (asked.size === 0) return wired.slice(0, MOST_UNKNOWN);
  const air = around.clientsOf(serial).flatMap(({ mac, ssid, key, named, since }): UnknownReport[] => {
    if (!asked.has(ssid) || key !== undefined || named) return [];
    const why = namer.whyNot(box, mac);
    return why ? [{ mac, ssid, ...why, ...(since === undefined ? {} : { since }) }] : [];
  });
  return [...wired, ...air].slice(0, MOST_UNKNOWN);
}
