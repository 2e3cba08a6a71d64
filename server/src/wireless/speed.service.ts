import { randomUUID } from 'node:crypto';
import type { SpeedGot, SpeedTry } from '@iron-lattice/core/line';
import type { Width } from '@iron-lattice/core/radio';
import { resolve, type EstatePart, type RosterDevice, type SitePart } from '@iron-lattice/core/intent';
import { capLimits } from '@iron-lattice/core/rollout';
import { shareOf } from '@iron-lattice/core/traffic';
import { meshTree, speedThrough } from '@iron-lattice/core/assess';
import { speedForecast, type SpeedTest } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import { Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import type { CommandService } from '../line/command.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import { rosterOf, type RosterService } from '../roster/roster.service';
import { ourNetworks, type AirService } from './air.service';

/** Tests that are told of a site, the latest first. */
const MOST_TOLD = 500;

interface Row {
  readonly id: string;
  readonly device_id: string;
  readonly name: string;
  readonly at: Date;
  readonly by: string;
  readonly revision: number;
  readonly asked: SpeedTry;
  readonly got: SpeedGot;
  readonly predicted: number | null;
}

/** Tests of speed: tried by devices, kept with what was live and what was predicted. */
export class SpeedService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly airs: AirService,
    private readonly commands: CommandService,
    private readonly bus: Bus,
  ) {}

  /** The tests of a site, the latest first. They are kept as long as the site is. */
  async list(siteId: string): Promise<SpeedTest[]> {
    if (!(await Site.findByPk(siteId, { attributes: ['id'] }))) throw unknown('site');
    return this.rows('t.site_id = :value', siteId);
  }

  /** Has an AP try the speed of a radio. @throws AppError where it cannot. */
  async test(deviceId: string, asked: SpeedTry, personId: string): Promise<SpeedTest> {
    const device = await this.commands.reachable(deviceId);
    const radio = device.hardware?.radios.find(({ band }) => band === asked.band);
    if (!radio) throw new AppError('command.refused', `${device.name} has no radio for ${asked.band} GHz.`);
    const answer = await this.commands.ask(deviceId, 'speed', '', { personId, speed: asked });
    const got = answer.speed;
    if (!answer.ok || !got) throw new AppError('command.refused', answer.text);
    const siteId = device.siteId!;
    const live = await this.intents.live();
    const pair = live.pairs.get(siteId);
    if (!pair) throw unknown('site');
    const predicted = await this.predict(pair, deviceId, Math.min(asked.streams, radio.streams), asked, got);
    const id = randomUUID();
    await this.database.query(
      `INSERT INTO speed_test (id, site_id, device_id, name, person_id, revision, asked, got, predicted)
       VALUES (:id, :siteId, :deviceId, :name, :personId, :revision, :asked, :got, :predicted)`,
      {
        replacements: {
          ...{ id, siteId, deviceId, name: device.name, personId, revision: pair.revision, predicted },
          ...{ asked: JSON.stringify(asked), got: JSON.stringify(got) },
        },
      },
    );
    await note(
      this.database,
      personId,
      'air.speed',
      { band: asked.band, down: got.down, up: got.up },
      undefined,
      deviceId,
    );
    await this.bus.send('live', { type: 'air', siteId, what: 'speed' });
    return (await this.rows('t.id = :value', id))[0]!;
  }

  private async predict(
    { estate, site }: { readonly estate: EstatePart; readonly site: SitePart },
    deviceId: string,
    streams: number,
    asked: SpeedTry,
    got: SpeedGot,
  ): Promise<number | null> {
    const { id: siteId, country } = site;
    const [devices, heard] = await Promise.all([this.rosters.devices(siteId), this.airs.heard(siteId)]);
    const mine = heard.find((each) => each.deviceId === deviceId);
    if (!mine) return null;
    const { losses } = await this.airs.losses(siteId);
    const neighbours = devices.flatMap(({ id, report }) => {
      const fact = report?.radios?.find(({ band, state }) => band === asked.band && state === 'on');
      if (id === deviceId || fact?.centre === undefined || fact.width === undefined) return [];
      const { centre, width, power = 0 } = fact;
      return [{ deviceId: id, centre, width, power, clients: report?.clients.length ?? 0 }];
    });
    const { channel, width, signal } = got;
    const link = { country, deviceId, channel, width: width as Width, signal, streams };
    const air = speedForecast(link, asked, mine, new Set(ourNetworks(devices).keys()), neighbours, losses);
    if (air === null) return null;
    const roster = devices.map(rosterOf);
    const tree = meshTree(site, roster, this.rosters.linksAmong(devices), losses);
    const hang = tree.hangs.get(deviceId);
    const through = hang ? speedThrough(hang, asked.band, air) : air;
    // Several probes share the air alike.
    return Math.min(through / (asked.count ?? 1), cappedAt(estate, site, roster, asked));
  }

  private async rows(where: string, value: string): Promise<SpeedTest[]> {
    const rows = await this.database.query<Row>(
      `SELECT t.id, t.device_id, coalesce(d.name, t.name) AS name, t.at, p.name AS by, t.revision, t.asked, t.got, t.predicted
       FROM speed_test t JOIN person p ON p.id = t.person_id LEFT JOIN device d ON d.id = t.device_id
       WHERE ${where} ORDER BY t.at DESC LIMIT ${MOST_TOLD}`,
      { replacements: { value }, type: QueryTypes.SELECT },
    );
    return rows.map(({ device_id, at, ...row }) => ({ ...row, deviceId: device_id, at: at.toISOString() }));
  }
}

/** What caps leave each of the probes that join an SSID at one AP, in Mb/s down. */
function cappedAt(
  estate: EstatePart,
  site: SitePart,
  roster: readonly RosterDevice[],
  { ssid: id, classId, count = 1 }: SpeedTry,
): number {
  const resolved = resolve(estate, site);
  const ssid = resolved.ssids.find((each) => each.id === id);
  if (!ssid) return Infinity;
  const accessClass = ssid.classes?.find((each) => each.id === classId);
  const { own, around } = capLimits({ site: resolved, roster }, ssid, 'down', { atOne: true, accessClass });
  const share = shareOf([...own, ...around], count);
  return share ? share.kbps / 1000 : Infinity;
}
