import type { PortalDocument } from '@iron-lattice/core/document';
import type { ClientReport } from '@iron-lattice/core/line';
import type { Box } from './box';
import type { HeldAt } from './guest-door';
import type { Admitted } from './keys';
import { sentNow } from './on-hours';
import type { PortClient } from './port-door';
import type { AirClient, WiredClient, WorldFile } from './world-file';

/** What of the world is looked at for it. */
interface Around {
  readonly file: WorldFile;
  comersAt(box: Box): readonly { readonly client: WiredClient; readonly at: PortClient }[];
  clientsOf(serial: string): readonly ClientReport[];
  admits(box: Box, client: AirClient): Admitted;
}

/** Clients of a box, on the air and on cables, that a portal holds back, or would. */
export function guestsHere(box: Box, around: Around): readonly HeldAt[] {
  const { document, device } = box;
  const named = document.radius?.portals !== undefined;
  const of = (mac: string, portal: PortalDocument | undefined): HeldAt[] => (portal ? [{ portal, mac }] : []);
  const cabled = named || document.ports.some(({ portal }) => portal);
  const sent = document.kind === 'ap' && (named || document.ssids.some(({ portal }) => portal));
  return [
    ...(cabled ? around.comersAt(box) : []).flatMap(({ client, at }) =>
      at.vlan === null ? [] : of(client.mac, at.portal),
    ),
    ...(sent ? around.clientsOf(device.serial) : []).flatMap(({ mac }) => of(mac, portalOf(box, mac, around))),
  ];
}

/** The portal that holds a client on the air: one that a server named, else that of its SSID. */
function portalOf(box: Box, mac: string, around: Around): PortalDocument | undefined {
  const client = around.file.clients.find((each): each is AirClient => each.mac === mac && 'near' in each);
  if (!client) return undefined;
  return around.admits(box, client).portal ?? sentNow(box).find(({ name }) => name === client.ssid)?.portal;
}
