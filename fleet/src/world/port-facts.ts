import { sheetFor } from '@iron-lattice/core/hardware';
import type { PortReport } from '@iron-lattice/core/line';
import type { Box } from './box';
import { isShut, type Plant } from './plant';
import type { WorldFile } from './world-file';

/** What an AP draws from the port it hangs on, in watts. */
const AP_WATTS = 13.4;

/** The ports of a box as they are: link, agreed speed, and the power each gives. */
export function portFacts(box: Box, plant: Plant, { clients, providers }: WorldFile): PortReport[] {
  const { serial } = box.device;
  return sheetFor(box.device).ports.map(({ name, speed, poe }): PortReport => {
    const far = plant.cabledTo(box, name);
    const peer = far?.box;
    const client = clients.find((each) => 'at' in each && each.at === `${serial}:${name}`);
    const provider = providers.some((each) => `${serial}:${name}` in each.gives);
    if (!peer?.powered && !client && !provider) return { port: name, up: false };
    if (isShut(box, name) || (far && isShut(far.box, far.port))) return { port: name, up: false };
    const told = box.document.ports.find((each) => each.name === name);
    const theirs = peer ? (sheetFor(peer.device).ports.find((each) => each.name === far.port)?.speed ?? speed) : speed;
    const asks = peer?.document.kind === 'ap' ? AP_WATTS : client && 'watts' in client ? (client.watts ?? 0) : 0;
    const gives = poe !== undefined && told?.poe !== 'off' && asks > 0;
    return {
      port: name,
      up: true,
      speed: Math.min(speed, theirs, told?.speed ?? speed),
      ...(gives ? { watts: Math.min(asks, poe) } : {}),
    };
  });
}
