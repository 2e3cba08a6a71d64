import type { RadioReport } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Speaker } from '../line/line-listener';
import type { Bus } from '../platform/bus';
import { later } from '../platform/held-connection';
import type { AirService } from './air.service';

/** Reports that come together are looked at once, after this many milliseconds. */
const SOON_MS = 1500;

/** Keeps what is known of the air true: who of ours sends what follows from what devices say, also after a scan. */
export class FactsKeeper {
  private readonly sent = new Map<string, string>();
  private changed = new Set<string>();
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly airs: AirService,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** A device said what it sends. */
  reported({ deviceId }: Speaker, radios: readonly RadioReport[]): void {
    const sends = radios
      .flatMap(({ sends = [] }) => sends.map(({ bssid }) => bssid))
      .sort()
      .join();
    if (sends === '' || this.sent.get(deviceId) === sends) return;
    this.sent.set(deviceId, sends);
    this.changed.add(deviceId);
    // Reports are written down a little later than they are heard: the last one counts.
    if (this.timer) clearTimeout(this.timer);
    this.timer = later(SOON_MS, () => void this.renew().catch(this.failed));
  }

  close(): void {
    if (this.timer) clearTimeout(this.timer);
  }

  private async renew(): Promise<void> {
    const ids = [...this.changed];
    this.changed = new Set();
    this.timer = null;
    const sites = await this.database.query<{ site_id: string }>(
      `SELECT DISTINCT d.site_id FROM device d JOIN air_facts f ON f.site_id = d.site_id WHERE d.id = ANY(:ids::uuid[])`,
      { replacements: { ids: `{${ids.join(',')}}` }, type: QueryTypes.SELECT },
    );
    for (const { site_id: siteId } of sites)
      if (await this.airs.renewFacts(siteId)) await this.bus.send('live', { type: 'site', siteId });
  }
}
