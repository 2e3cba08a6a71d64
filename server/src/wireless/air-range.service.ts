import type { Band } from '@iron-lattice/core/hardware';
import type { ClientReport, RadioReport } from '@iron-lattice/core/line';
import { CLIENT_DBM } from '@iron-lattice/core/radio';
import { RANGE_DAYS, rateRanges, type BandRange, type HeardClient } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import { Site } from '../intent/intent.model';
import type { Speaker } from '../line/line-listener';
import { unknown } from '../platform/app-error';
import { clock } from '../platform/clock';
import { WriteBehind } from '../platform/write-behind';

/** What was heard is written together, this soon, and that many in a statement. */
const [SOON_MS, MOST_AT_ONCE] = [2000, 1000];
/** Clients of an AP that are kept of a day: one that makes up others fills no table. */
const MOST_A_DAY = 5000;

interface Heard extends HeardClient {
  readonly deviceId: string;
  readonly ssid: string;
  /** Such as `2026-03-01`, by UTC. */
  readonly day: string;
}

/** How well clients were heard over the last days: whom a faster slowest rate would leave out. */
export class AirRangeService {
  /** Best and weakest of the day as last written, by device, then band and MAC address. */
  private readonly known = new Map<string, Map<string, Heard>>();
  /** How many of each AP were kept of a day. */
  private readonly kept = new Map<string, { readonly day: string; readonly clients: Set<string> }>();
  private readonly heard: WriteBehind<Heard>;

  constructor(
    private readonly database: Sequelize,
    failed: (error: unknown) => void,
  ) {
    this.heard = new WriteBehind<Heard>({
      write: (entries) => this.write([...entries.values()]),
      merge: wider,
      bad: (_key, error) => failed(error),
      failed,
      soonMs: SOON_MS,
      most: MOST_AT_ONCE,
    });
  }

  close(): Promise<void> {
    return this.heard.close();
  }

  /** Writes what waits, at once. */
  flush(): Promise<void> {
    return this.heard.flush();
  }

  /** Whom each rate would have left out at a site, by band. */
  async of(siteId: string): Promise<BandRange[]> {
    if (!(await Site.findByPk(siteId, { attributes: ['id'] }))) throw unknown('site');
    const rows = await this.database.query<HeardClient>(
      `SELECT r.mac, r.band, max(r.best)::int AS best, min(r.weakest)::int AS weakest
       FROM air_range r JOIN device d ON d.id = r.device_id
       WHERE d.site_id = :siteId AND r.day > current_date - ${RANGE_DAYS} GROUP BY r.mac, r.band`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    return rateRanges(rows);
  }

  /** An AP reported its clients: what widens the range of the day is written down. */
  reported({ deviceId }: Speaker, clients: readonly ClientReport[], radios: readonly RadioReport[]): void {
    const powers = new Map<Band, number>(
      radios.flatMap(({ band, power }) => (power === undefined ? [] : [[band, power]])),
    );
    const day = clock.date().toISOString().slice(0, 10);
    const before = this.known.get(deviceId);
    const kept = this.keptOf(deviceId, day);
    const now = new Map<string, Heard>();
    for (const { mac, band, signal, ssid } of clients) {
      if (band === undefined || signal === undefined) continue;
      // The way is the same for both: the client hears as much more as the AP sends more.
      const hears = Math.round(signal + (powers.get(band) ?? CLIENT_DBM) - CLIENT_DBM);
      const [key, one] = [`${band} ${mac}`, { deviceId, band, mac, ssid, day, best: hears, weakest: hears }];
      if (!kept.has(key) && kept.size >= MOST_A_DAY) continue;
      kept.add(key);
      const last = before?.get(key);
      const next = last?.day === day ? wider(last, one) : one;
      now.set(key, next);
      if (last?.day !== day || next.best !== last.best || next.weakest !== last.weakest)
        this.heard.put(`${deviceId} ${key} ${day}`, next);
    }
    if (now.size === 0) this.known.delete(deviceId);
    else this.known.set(deviceId, now);
  }

  private keptOf(deviceId: string, day: string): Set<string> {
    const known = this.kept.get(deviceId);
    if (known?.day === day) return known.clients;
    const clients = new Set<string>();
    this.kept.set(deviceId, { day, clients });
    return clients;
  }

  private async write(all: readonly Heard[]): Promise<Iterable<string>> {
    const rows = JSON.stringify(all.map(({ deviceId, ...rest }) => ({ ...rest, id: deviceId })));
    await this.database.query(
      `INSERT INTO air_range (device_id, band, mac, day, best, weakest)
       SELECT r.id, r.band, r.mac, r.day, r.best, r.weakest
       FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, band text, mac text, day date, best smallint, weakest smallint, ssid text)
       JOIN device d ON d.id = r.id WHERE client_is_kept(d.id, r.ssid)
       ON CONFLICT (device_id, band, mac, day) DO UPDATE
       SET best = greatest(air_range.best, EXCLUDED.best), weakest = least(air_range.weakest, EXCLUDED.weakest)`,
      { replacements: { rows } },
    );
    return [];
  }
}

const wider = (a: Heard, b: Heard): Heard => ({
  ...b,
  best: Math.max(a.best, b.best),
  weakest: Math.min(a.weakest, b.weakest),
});
