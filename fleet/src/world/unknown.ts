import { asksWho } from '@iron-lattice/core/document';
import { joinsAtPort } from '@iron-lattice/core/lattice';
import type { ClientReport, UnknownReport } from '@iron-lattice/core/line';
import type { Box } from './box';
import type { Namer } from './named';
import { sentNow } from './on-hours';
import { isShut } from './plant';
import type { WorldFile } from './world-file';

/** Clients that nobody knows, of one report. */
const MOST_UNKNOWN = 256;

/** What of the world is looked at for it. */
interface Around {
  readonly file: WorldFile;
  readonly namer: Namer;
  clientsOf(serial: string): readonly ClientReport[];
  sinceAt(mac: string, place: string): number;
}

/** Clients that a box asks who they are, and that nobody knows: at its ports, and on SSIDs whose own segment they join. */
export function unknownAt(box: Box, around: Around): UnknownReport[] {
  const { document, powered, cables } = box;
  const { file, namer } = around;
  const { serial } = box.device;
  if (!powered) return [];
  const wired = file.clients.flatMap((client): UnknownReport[] => {
    if (!('at' in client)) return [];
    const [at, name] = client.at.split(':') as [string, string];
    const port = at === serial ? document.ports.find((each) => each.name === name) : undefined;
    if (port?.auth !== 'mac' || cables.has(name) || isShut(box, name)) return [];
    const { mac } = client;
    if (joinsAtPort(document, port, mac, namer.of(box, mac, name)?.accessClass).vlan !== null) return [];
    const why = document.radius ? namer.whyNot(box, mac) : { why: 'unlisted' as const };
    return why ? [{ mac, port: name, ...why, since: around.sinceAt(mac, `${client.at} unknown`) }] : [];
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
