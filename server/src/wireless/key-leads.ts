import type { KeyLead } from '@iron-lattice/core/assess';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Bus } from '../platform/bus';

/** Where keys of rings lead: looked up once until keys change, since every edit is judged by it. */
export class KeyLeads {
  private readonly known = new Map<string, Promise<readonly KeyLead[]>>();
  private readonly leave: readonly (() => void)[];

  constructor(
    private readonly database: Sequelize,
    bus: Bus,
  ) {
    this.leave = [
      bus.on('ring', ({ ssidId }) => void this.known.delete(ssidId)),
      bus.onReopened(() => this.known.clear()),
    ];
  }

  close(): void {
    for (const leave of this.leave) leave();
  }

  /** Those of some SSIDs. */
  async of(ssidIds: readonly string[]): Promise<readonly KeyLead[]> {
    return (await Promise.all(ssidIds.map((id) => this.at(id)))).flat();
  }

  private at(ssidId: string): Promise<readonly KeyLead[]> {
    const known = this.known.get(ssidId);
    if (known) return known;
    const found = this.find(ssidId);
    this.known.set(ssidId, found);
    found.catch(() => this.known.delete(ssidId));
    return found;
  }

  private async find(ssidId: string): Promise<readonly KeyLead[]> {
    const rows = await this.database.query<Omit<KeyLead, 'ssidId' | 'accessClass'> & { access_class: string | null }>(
      `SELECT segment, access_class, count(*)::int AS count FROM ring_key
       WHERE ssid_id = :ssidId AND revoked_at IS NULL AND (segment IS NOT NULL OR access_class IS NOT NULL)
       GROUP BY segment, access_class ORDER BY 1, 2`,
      { replacements: { ssidId }, type: QueryTypes.SELECT },
    );
    return rows.map(({ segment, access_class: accessClass, count }) => ({ ssidId, segment, accessClass, count }));
  }
}
