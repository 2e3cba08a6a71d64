import type { MeshDocument, PortDocument } from '../../document';
import { sheetFor } from '../../hardware';
import { MESH_PORT, meshSetting } from '../../intent';
import { ascending, leavingVlans } from '../facts';
import { part, type Told } from '../part';
import { fact } from '../reads';

interface Hanging {
  /** Serial numbers of APs, by their ids. */
  readonly serials: ReadonlyMap<string, string>;
  readonly hangs: ReadonlyMap<string, NonNullable<MeshDocument['hang']>>;
  /** Ids of those that others may hang on; null: each may be. */
  readonly carriers: ReadonlySet<string> | null;
}

/** Which APs of a site hang by radio, and on which they may. */
const hangingOf = fact(
  { site: ['mesh', 'meshAps'], devices: ['id', 'serial', 'model', 'sheet'] },
  ({ mesh, meshAps, devices }): Hanging => {
    const site = { ...(mesh ? { mesh } : {}), ...(meshAps ? { meshAps } : {}) };
    const aps = devices.filter((device) => sheetFor(device).kind === 'ap');
    const serials = new Map(aps.map(({ id, serial }) => [id, serial]));
    const carriers = new Set<string>();
    let all = false;
    const hangs = aps.flatMap((device) => {
      const { when, band, hops, parents } = meshSetting(site, device);
      if (when === 'never') return [];
      if (parents === 'any') all = true;
      else for (const id of parents) carriers.add(id);
      const named = parents === 'any' ? null : parents.flatMap((id) => serials.get(id) ?? []).sort();
      return [[device.id, { when, band, hops, ...(named ? { parents: named } : {}) }] as const];
    });
    return { serials, hangs: new Map(hangs), carriers: all ? null : carriers };
  },
);

/**
 * How an AP hangs on others by radio and others on it: a port of its own for that, which carries what its own cable does; of one
 * that others may hang on both carry everything, since who hangs there is told by the air.
 */
export const hanging = part({
  name: 'hanging by radio',
  kinds: ['ap'],
  reads: {
    site: ['mesh', 'management'],
    facts: { found: hangingOf, leaving: leavingVlans },
    device: ['id', 'model', 'sheet'],
    before: ['ports'],
  },
  tells: ({ mesh, management: { vlan: home }, found, leaving }, device, { ports = [] }): Told => {
    if (!mesh || found.hangs.size === 0) return {};
    const hang = found.hangs.get(device.id);
    const carries = found.carriers === null || found.carriers.has(device.id);
    const [own, ...sockets] = ports;
    if (!own || (!hang && !carries)) return {};
    const tagged = carries ? ascending([...own.tagged, ...leaving]).filter((vlan) => vlan !== home) : own.tagged;
    const port: PortDocument = { name: MESH_PORT, untagged: home, tagged };
    return {
      ports: [{ ...own, tagged }, ...sockets, port],
      mesh: { key: mesh.key, ...(carries ? { carries } : {}), ...(hang ? { hang } : {}) },
    };
  },
});
