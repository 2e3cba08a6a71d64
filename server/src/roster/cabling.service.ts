import { QueryTypes, type Sequelize } from 'sequelize';
import { sheetOf, type HardwareSheet } from '@iron-lattice/core/hardware';
import { MESH_PORT } from '@iron-lattice/core/intent';
import type { NeighbourReport, UplinkReport } from '@iron-lattice/core/line';
import type { Bus } from '../platform/bus';
import { later } from '../platform/held-connection';
import { Device } from './device.model';

const GATHER_MS = 150;

/** What a device may hang on: one that hangs by radio does not use its cable, and on nothing that hangs on it. */
function wayIn(neighbours: readonly NeighbourReport[]): readonly NeighbourReport[] {
  const byRadio = neighbours.filter(({ hangs }) => hangs);
  return byRadio.length > 0 ? byRadio : neighbours.filter(({ port }) => port !== MESH_PORT);
}

interface Reported {
  readonly id: string;
  readonly mac: string;
  readonly model: string;
  readonly sheet: HardwareSheet | null;
  readonly hangs_on_id: string | null;
  readonly hangs_on_port: string | null;
  readonly neighbours: readonly NeighbourReport[] | null;
  readonly uplinks: readonly UplinkReport[] | null;
}

/** Keeps up, from what devices report, which neighbour each hangs on. A projection: it can be rebuilt at will. */
export class CablingService {
  private readonly stale = new Set<string>();
  private timer: NodeJS.Timeout | null = null;
  private closed = false;

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Has a site's devices looked at again, soon; many calls at the same time are one look. */
  refresh(siteId: string): void {
    this.stale.add(siteId);
    if (this.closed) return;
    this.timer ??= later(GATHER_MS, () => {
      this.timer = null;
      const sites = [...this.stale];
      this.stale.clear();
      void this.rebuildAll(sites).catch(this.failed);
    });
  }

  close(): void {
    this.closed = true;
    if (this.timer) clearTimeout(this.timer);
  }

  private async rebuildAll(siteIds: readonly string[]): Promise<void> {
    for (const siteId of siteIds) if (!this.closed) await this.rebuild(siteId);
  }

  /** Walks outwards from every gateway at once, so the neighbour that reaches a device first is the nearer way. */
  private async rebuild(siteId: string): Promise<void> {
    const rows = await this.database.query<Reported>(
      `SELECT id, mac, model, sheet, hangs_on_id, hangs_on_port, report->'neighbours' AS neighbours, report->'uplinks' AS uplinks
       FROM device WHERE site_id = :siteId ORDER BY id`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    const hearing = new Map<string, { row: Reported; theirPort: string }[]>(); // by the MAC address they hear
    for (const row of rows)
      for (const { chassis, theirPort } of wayIn(row.neighbours ?? [])) {
        const list = hearing.get(chassis) ?? [];
        list.push({ row, theirPort });
        hearing.set(chassis, list);
      }
    const found = new Map<string, { id: string | null; port: string }>();
    const queue: Reported[] = [];
    for (const row of rows) {
      if ((sheetOf(row.model) ?? row.sheet)?.kind !== 'gateway') continue;
      const up = (row.uplinks ?? []).filter((uplink) => uplink.up).map((uplink) => uplink.port);
      if (up.length > 0) found.set(row.id, { id: null, port: up.join(', ') });
      queue.push(row);
    }
    const seen = new Set(queue.map((row) => row.id));
    for (const row of queue) {
      for (const { row: next, theirPort } of hearing.get(row.mac) ?? []) {
        if (seen.has(next.id)) continue;
        seen.add(next.id);
        found.set(next.id, { id: row.id, port: theirPort });
        queue.push(next);
      }
    }
    for (const row of rows) {
      const now = found.get(row.id);
      const [id, port] = [now?.id ?? null, now?.port ?? null];
      if (row.hangs_on_id === id && row.hangs_on_port === port) continue;
      await Device.update({ hangsOnId: id, hangsOnPort: port }, { where: { id: row.id } });
      this.bus.changed({ id: row.id, siteId });
    }
  }
}
