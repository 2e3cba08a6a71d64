import type { NeighbourReport } from '@iron-lattice/core/line';
import { isPortOpen } from '@iron-lattice/core/document';
import { MESH_PORT } from '@iron-lattice/core/intent';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { Box, Spot } from './box';
import type { Tunnels } from './tunnels';

/** The far end of a cable, or of a link by radio. */
interface End {
  readonly box: Box;
  readonly port: string;
}

/** Boxes and what joins them, and where frames go that 802.1Q lets go. */
export class Plant {
  private readonly boxes = new Map<string, Box>();
  /** Cables that were pulled out of a box, by its serial number: each knows where it belongs. */
  private readonly pulled = new Map<
    string,
    readonly (readonly [port: string, far: { serial: string; port: string }])[]
  >();

  /** What goes inside packets; set before the first frame goes. */
  tunnels: Tunnels | null = null;

  constructor(boxes: readonly Box[], cables: readonly (readonly [string, string])[]) {
    for (const box of boxes) this.boxes.set(box.device.serial, box);
    for (const [a, b] of cables) {
      this.plug(a, b);
      this.plug(b, a);
    }
    this.chart(boxes);
  }

  /** @throws RangeError when there is no such box. */
  box(serial: string): Box {
    const box = this.boxes.get(serial);
    if (!box) throw new RangeError(`no device ${serial} in this world`);
    return box;
  }
  get serials(): string[] {
    return [...this.boxes.keys()];
  }

  /** Where a port of a box leads: to one end of a cable, by radio to any number. */
  endsOf(box: Box, port: string): End[] {
    if (port === MESH_PORT)
      return [...(box.hangs ? [box.hangs.on] : []), ...box.hung].map((each) => ({ box: each, port }));
    const far = box.cables.get(port);
    if (!far || restsAt(box, port) || isShut(box, port)) return [];
    const peer = this.box(far.serial);
    return restsAt(peer, far.port) || isShut(peer, far.port) ? [] : [{ box: peer, port: far.port }];
  }

  /** The box at the far end of a cable, in use or not. */
  cabledTo(box: Box, port: string): End | null {
    const far = box.cables.get(port);
    return far ? { box: this.box(far.serial), port: far.port } : null;
  }

  /** Whether an AP's own cable leads to a box that has power. */
  hasCable = (box: Box): boolean => {
    const far = this.cabledTo(box, ownPort(box));
    return far !== null && far.box.powered && !isShut(far.box, far.port);
  };

  /** Neighbours on each port, but for routers of others, which say nothing: LLDP frames cross a cable whatever the VLANs are, and whether it is in use. */
  neighboursOf(serial: string): NeighbourReport[] {
    const box = this.box(serial);
    const cabled = [...box.cables.keys()].flatMap((port): NeighbourReport[] => {
      const far = this.cabledTo(box, port)!;
      return far.box.powered && !far.box.router && !isShut(box, port) && !isShut(far.box, far.port)
        ? [{ port, chassis: far.box.device.mac, theirPort: far.port }]
        : [];
    });
    const byRadio = this.endsOf(box, MESH_PORT).map(({ box: { device } }): NeighbourReport => {
      const hangs = box.hangs?.on.device === device ? { hangs: true as const } : {};
      return { port: MESH_PORT, chassis: device.mac, theirPort: MESH_PORT, ...hangs };
    });
    return [...cabled, ...byRadio];
  }

  /** Pulls all cables out of a box, or puts them back where they were. */
  pull(serial: string, out: boolean): void {
    const box = this.box(serial);
    if (!out) {
      for (const [port, far] of this.pulled.get(serial) ?? []) {
        box.cables.set(port, far);
        this.box(far.serial).cables.set(far.port, { serial, port });
      }
      this.pulled.delete(serial);
      return;
    }
    this.pulled.set(serial, [...(this.pulled.get(serial) ?? []), ...box.cables]);
    for (const far of box.cables.values()) this.box(far.serial).cables.delete(far.port);
    box.cables.clear();
  }

  /** Moves the cables of one box to another, port by port where it has one of the same name. @returns whom that may matter to. */
  recable(from: string, to: string): string[] {
    const [old, box] = [this.box(from), this.box(to)];
    const touched = [...old.island, ...box.island];
    for (const far of box.cables.values()) this.box(far.serial).cables.delete(far.port);
    box.cables.clear();
    for (const [port, far] of old.cables) {
      const peer = this.box(far.serial);
      if (box.document.ports.some((each) => each.name === port)) {
        box.cables.set(port, far);
        peer.cables.set(far.port, { serial: to, port });
      } else peer.cables.delete(far.port);
    }
    old.cables.clear();
    for (const each of touched) each.island = [];
    this.chart(touched);
    return [...new Set(touched.map((each) => each.device.serial))];
  }

  /** Floods from a spot and returns the first place that is wanted. @param past a box that the flood does not enter. */
  firstReached(start: Spot, wanted: (spot: Spot) => boolean, past?: Box): Spot | null {
    return this.way(start, wanted, past)?.at(-1) ?? null;
  }

  /**
   * Floods from a spot and returns the places on the way to the first that is wanted.
   * @param tunnels null: over cables alone.
   */
  way(start: Spot, wanted: (spot: Spot) => boolean, past?: Box, tunnels: Tunnels | null = this.tunnels): Spot[] | null {
    const seen = new Set<string>();
    const from = new Map<Spot, Spot>();
    const queue = [start];
    const push = (spot: Spot, before: Spot): void => {
      from.set(spot, before);
      queue.push(spot);
    };
    for (let spot = queue.shift(); spot; spot = queue.shift()) {
      const { box, vlan, tunnel } = spot;
      const key = `${box.device.serial} ${vlan}${tunnel ? ` in the tunnel ${tunnel}` : ''}`;
      if (seen.has(key) || !box.powered || box === past) continue;
      seen.add(key);
      if (wanted(spot)) {
        const way = [spot];
        for (let before = from.get(spot); before; before = from.get(before)) way.unshift(before);
        return way;
      }
      if (tunnels) for (const next of tunnels.next(spot)) push(next, spot);
      for (const port of tunnel ? [] : box.document.ports)
        for (const { box: peer, port: name } of this.endsOf(box, port.name)) {
          const entry = peer.document.ports.find((each) => each.name === name);
          if (!entry) continue;
          if (port.untagged === vlan) {
            if (entry.untagged !== null) push({ box: peer, vlan: entry.untagged }, spot);
          } else if (port.tagged.includes(vlan) && (entry.tagged.includes(vlan) || entry.untagged === vlan)) {
            push({ box: peer, vlan }, spot);
          }
        }
    }
    return null;
  }

  private plug(near: string, far: string): void {
    const [serial, port] = near.split(':') as [string, string];
    const [farSerial, farPort] = far.split(':') as [string, string];
    this.box(serial).cables.set(port, { serial: farSerial, port: farPort });
  }

  /** Finds the islands of some boxes; a cable that was pulled still belongs to its place. */
  private chart(boxes: readonly Box[]): void {
    for (const start of boxes) {
      if (start.island.length > 0) continue;
      const island = new Set([start]);
      for (const box of island) {
        const pulled = (this.pulled.get(box.device.serial) ?? []).map(([, far]) => far);
        for (const far of [...box.cables.values(), ...pulled]) island.add(this.box(far.serial));
      }
      for (const box of island) box.island = [...island];
    }
  }
}

/** The port that an AP hangs on by cable. */
const ownPort = ({ device }: Box): string => sheetFor(device).ports[0]!.name;

/** Whether a port is out of use, since its AP hangs by radio. */
const restsAt = (box: Box, port: string): boolean => box.hangs !== null && port === ownPort(box);

/** Whether a port is out of use at this time of the week. */
export function isShut({ document }: Box, name: string): boolean {
  const port = document.ports.find((each) => each.name === name);
  return port?.hours !== undefined && !isPortOpen(port, document.site, Date.now());
}
