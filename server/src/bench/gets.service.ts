import type { GetsAnswer, GetsRequest, GetsTried, GetsTry, IfServerDies, Whom } from '@iron-lattice/core/bench';
import { formatMac, parseMac } from '@iron-lattice/core/address';
import { resolve, type EstatePart, type ResolvedSite, type RosterDevice } from '@iron-lattice/core/intent';
import { dayOf, momentAt } from '@iron-lattice/core/rules';
import type { AskedFor } from '@iron-lattice/core/radius';
import type { Device } from '../roster/device.model';
import type { EntryTeller } from '../roster/entry-offer';
import { rosterOf, type RosterService } from '../roster/roster.service';
import type { KeptUserFinder } from '../roster/user-offer';
import type { DraftService } from '../intent/draft.service';
import { AppError, unknown } from '../platform/app-error';
import { clock } from '../platform/clock';
import type { Heavy } from '../platform/heavy';

interface Opened {
  readonly site: ResolvedSite;
  readonly estate: EstatePart;
  readonly roster: readonly RosterDevice[];
  readonly devices: readonly Device[];
  readonly whom: Whom;
}

/** What somebody would get at a site by a draft, and what really comes of trying it. */
export class GetsService {
  constructor(
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
    private readonly heavy: Heavy,
    private readonly kept: KeptUserFinder,
    private readonly entry: EntryTeller,
  ) {}

  /** What somebody would get at each place of a site, with what they would reach now. */
  async at(draftId: string, request: GetsRequest): Promise<GetsAnswer> {
    const { site, roster, whom } = await this.open(draftId, request);
    const minute = momentAt(clock.now(), site.timeZone);
    return { whom, rows: await this.heavy.run('gets', { site, roster, live: null }, whom, minute) };
  }

  /** Has a device of the place really ask for somebody, and says where reality differs from what was computed. */
  async try(draftId: string, { place, entry, ...request }: GetsTry): Promise<GetsTried> {
    const { site, estate, roster, devices, whom } = await this.open(draftId, request);
    if (!entry && whom.mac === null)
      throw new AppError('input.invalid', 'Say how they prove who they are, or give a MAC address instead of a name.');
    const able = await this.heavy.run('gets-askers', site, roster, place);
    const deviceOf = new Map(devices.map((device) => [device.id, device]));
    const asker = able.find(({ deviceId }) => deviceOf.get(deviceId)?.online) ?? able[0];
    if (!asker) throw unknown('such place at the site');
    const { deviceId, at, radius } = asker;
    const asked: AskedFor = entry
      ? { ...entry, at, ...(whom.mac === null ? {} : { mac: whom.mac }) }
      : { method: 'mac', user: whom.mac!, password: '', mac: whom.mac!, at };
    const said = radius ? await this.entry({ deviceId, siteId: site.id, estate, radius, asked }) : [];
    const stood = 'ssidId' in place ? { ssidId: place.ssidId, deviceId } : place;
    const got = await this.heavy.run('gets-tried', { site, roster }, whom, stood, said);
    const { name, serial } = deviceOf.get(deviceId)!;
    return { device: name ?? serial, asked: said, ...got };
  }

  /** What happens at a site when a server of a draft does not answer any more. */
  async ifDies(draftId: string, siteId: string, radiusId: string): Promise<IfServerDies> {
    const [{ intent }, devices] = await Promise.all([this.drafts.open(draftId), this.rosters.devices(siteId)]);
    const part = intent.sites.get(siteId);
    const server = intent.estate.radius?.find(({ id }) => id === radiusId);
    if (!part || !server) throw unknown('RADIUS server');
    const site = resolve(intent.estate, part);
    const standing = devices
      .flatMap(({ report }) => [...(report?.clients ?? []), ...(report?.wired ?? [])])
      .filter(({ entered, named }) => (entered?.server ?? named?.server) === server.name).length;
    return { rows: await this.heavy.run('server-dies', site, devices.map(rosterOf), server.name), standing };
  }

  private async open(draftId: string, { siteId, who, assumedId }: GetsRequest): Promise<Opened> {
    const [{ intent }, devices] = await Promise.all([this.drafts.open(draftId), this.rosters.devices(siteId)]);
    const part = intent.sites.get(siteId);
    if (!part) throw unknown('site');
    const site = resolve(intent.estate, part);
    const value = parseMac(who);
    const mac = value === null ? null : formatMac(value);
    const kept = await this.kept(who);
    const today = dayOf(clock.now(), site.timeZone);
    const over = kept?.until && today > kept.until ? `their time was over on ${kept.until}` : null;
    const assumed = assumedId === null ? null : intent.estate.classes?.find(({ id }) => id === assumedId);
    if (assumed === undefined) throw unknown('class');
    const whom: Whom = {
      ...{ mac, user: mac === null ? who.trim() : null, groups: kept?.groups ?? null },
      barred: kept?.off ? 'the user is switched off' : over,
      assumed: assumed?.name ?? null,
    };
    return { site, estate: intent.estate, roster: devices.map(rosterOf), devices, whom };
  }
}
