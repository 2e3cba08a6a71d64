import type { AirFacts } from '@iron-lattice/core/assess';
import type { ScanReport } from '@iron-lattice/core/line';
import {
  airFactsOf,
  measuredLosses,
  type AirHeard,
  type AirView,
  type MeasuredLoss,
  type ScanRun,
  type ScanStep,
  type Sender,
} from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import { Site } from '../intent/intent.model';
import { unknown } from '../platform/app-error';
import type { Device } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';

/** After this long without a sign of life of whoever runs a scan, it is over. */
export const SCAN_LOST_MS = 30_000;

/** What is known of a site's air: only what its devices told. */
export class AirService {
  constructor(
    private readonly database: Sequelize,
    private readonly rosters: RosterService,
  ) {}

  /** The air of a site as its APs last heard it, and how a scan goes. @throws AppError where there is no such site. */
  async view(siteId: string): Promise<AirView> {
    if (!(await Site.findByPk(siteId, { attributes: ['id'] }))) throw unknown('site');
    const [devices, heard, run] = await Promise.all([
      this.rosters.devices(siteId),
      this.heard(siteId),
      this.run(siteId),
    ]);
    return {
      heard,
      run,
      ours: [...ourNetworks(devices)].map(([bssid, { deviceId, ssid }]) => ({ bssid, deviceId, ssid })),
    };
  }

  /** What the APs of a site heard, each the last time. */
  async heard(siteId: string): Promise<AirHeard[]> {
    const rows = await this.database.query<{ id: string; name: string; at: Date; scan: ScanReport }>(
      `SELECT d.id, d.name, h.at, h.scan FROM air_heard h JOIN device d ON d.id = h.device_id WHERE d.site_id = :siteId ORDER BY d.name`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    return rows.map(({ id, name, at, scan }) => ({ deviceId: id, name, at: at.toISOString(), ...scan }));
  }

  /** What findings ask of the air of sites, as it was worked out when their APs last scanned. */
  async facts(siteIds: readonly string[]): Promise<ReadonlyMap<string, AirFacts>> {
    if (siteIds.length === 0) return new Map();
    const rows = await this.database.query<{ site_id: string; facts: AirFacts }>(
      `SELECT site_id, facts FROM air_facts WHERE site_id = ANY(:siteIds::uuid[])`,
      { replacements: { siteIds: `{${siteIds.join(',')}}` }, type: QueryTypes.SELECT },
    );
    return new Map(rows.map(({ site_id, facts }) => [site_id, facts]));
  }

  /** Works them out anew for a site. @returns whether they are others now. */
  async renewFacts(siteId: string): Promise<boolean> {
    const heard = await this.heard(siteId);
    if (heard.length === 0) return false;
    const devices = await this.rosters.devices(siteId);
    const senders = ourNetworks(devices);
    const facts = airFactsOf(heard, (bssid) => senders.get(bssid));
    const changed = await this.database.query(
      `INSERT INTO air_facts (site_id, facts) VALUES (:siteId, :facts)
       ON CONFLICT (site_id) DO UPDATE SET facts = excluded.facts WHERE air_facts.facts <> excluded.facts RETURNING site_id`,
      { replacements: { siteId, facts: JSON.stringify(facts) }, type: QueryTypes.SELECT },
    );
    return changed.length > 0;
  }

  async keep(deviceId: string, scan: ScanReport): Promise<void> {
    await this.database.query(
      `INSERT INTO air_heard (device_id, scan) VALUES (:deviceId, :scan)
       ON CONFLICT (device_id) DO UPDATE SET scan = excluded.scan, at = now()`,
      { replacements: { deviceId, scan: JSON.stringify(scan) } },
    );
  }

  /** The scan of a site that is under way, or the last one; null where there was none. */
  async run(siteId: string): Promise<ScanRun | null> {
    const [row] = await this.database.query<{
      id: string;
      by: string;
      started_at: Date;
      running: boolean;
      lost: boolean;
      steps: ScanStep[];
    }>(
      `SELECT s.id, p.name AS by, s.started_at, s.running, s.alive_at < now() - make_interval(secs => ${SCAN_LOST_MS / 1000}) AS lost, s.steps
       FROM air_scan s JOIN person p ON p.id = s.person_id WHERE s.site_id = :siteId`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    if (!row) return null;
    const { id, by, started_at, running, lost, steps } = row;
    const over = (step: ScanStep): ScanStep =>
      step.state === 'waits' || step.state === 'scans'
        ? { ...step, state: 'left', reason: 'The controller was restarted. Scan again.' }
        : step;
    return {
      id,
      by,
      startedAt: started_at.toISOString(),
      running: running && !lost,
      steps: running && lost ? steps.map(over) : steps,
    };
  }

  /** Path losses between the APs of a site, as they heard each other. */
  async losses(
    siteId: string,
  ): Promise<{ readonly losses: readonly MeasuredLoss[]; readonly measured: ReadonlySet<string> }> {
    const [devices, heard] = await Promise.all([this.rosters.devices(siteId), this.heard(siteId)]);
    const senders = ourNetworks(devices);
    return {
      losses: measuredLosses(heard, (bssid) => senders.get(bssid)),
      measured: new Set(heard.map(({ deviceId }) => deviceId)),
    };
  }
}

/** Networks that devices say they send, by their identity. */
export function ourNetworks(devices: readonly Device[]): ReadonlyMap<string, Sender & { readonly ssid: string }> {
  return new Map(
    devices.flatMap(({ id, report }) =>
      (report?.radios ?? []).flatMap(({ sends = [], power = 0 }) =>
        sends.map(({ bssid, ssid }) => [bssid, { deviceId: id, power, ssid }] as const),
      ),
    ),
  );
}
