import {
  gotAt,
  ifServerDies,
  whatTheyGet,
  type AskedOne,
  type Gets,
  type GetsAnswer,
  type GetsRequest,
  type GetsTried,
  type GetsTry,
  type IfServerDies,
  type Whom,
} from '@iron-lattice/core/bench';
import { formatMac, parseMac } from '@iron-lattice/core/address';
import type { DeviceDocument } from '@iron-lattice/core/document';
import { resolve, type EstatePart, type ResolvedSite, type RosterDevice } from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
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
    const opened = await this.open(draftId, request);
    const { site, estate, roster, devices, whom } = opened;
    const documents = compileSite(site, roster);
    const [device, document, at] = placeOf(devices, documents, place);
    if (!entry && whom.mac === null)
      throw new AppError('input.invalid', 'Say how they prove who they are, or give a MAC address instead of a name.');
    const asked: AskedFor = entry
      ? { ...entry, at, ...(whom.mac === null ? {} : { mac: whom.mac }) }
      : { method: 'mac', user: whom.mac!, password: '', mac: whom.mac!, at };
    const where = { deviceId: device.id, siteId: site.id, estate };
    const said = document.radius ? await this.entry({ ...where, radius: document.radius, asked }) : [];
    const last = said.at(-1);
    const accepted = last?.exchange.end === 'accepted' ? last.exchange : null;
    const stood = 'ssidId' in place ? { ssidId: place.ssidId, deviceId: device.id } : place;
    const got = gotAt({ site, documents }, stood, accepted, whom);
    const stops = got.stops && last && !accepted ? whyNot(last) : got.stops;
    const [expected] = whatTheyGet({ site, roster, documents }, whom).filter((row) => isOf(row, place));
    const real = { ...got, stops };
    return { device: device.name ?? device.serial, asked: said, ...real, differs: differences(expected, real, last) };
  }

  /** What happens at a site when a server of a draft does not answer any more. */
  async ifDies(draftId: string, siteId: string, radiusId: string): Promise<IfServerDies> {
    const [{ intent }, devices] = await Promise.all([this.drafts.open(draftId), this.rosters.devices(siteId)]);
    const part = intent.sites.get(siteId);
    const server = intent.estate.radius?.find(({ id }) => id === radiusId);
    if (!part || !server) throw unknown('RADIUS server');
    const site = resolve(intent.estate, part);
    const standing = devices.flatMap(({ report, name }) => [
      ...(report?.clients ?? []).map((each) => ({ at: each.ssid, server: each.entered?.server ?? each.named?.server })),
      ...(report?.wired ?? []).map((each) => ({
        at: `${name} ${each.port}`,
        server: each.entered?.server ?? each.named?.server,
      })),
    ]);
    const documents = compileSite(site, devices.map(rosterOf));
    const there = standing.flatMap((each) => (each.server === undefined ? [] : [{ at: each.at, server: each.server }]));
    return ifServerDies({ site, documents }, server.name, there);
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

/** A device that can ask at a place, what it would be told, and what the place is called. */
function placeOf(
  devices: readonly Device[],
  documents: ReadonlyMap<string, DeviceDocument>,
  place: GetsTry['place'],
): readonly [Device, DeviceDocument, string] {
  const here = [...documents].flatMap(([id, document]) => {
    const device = devices.find((each) => each.id === id);
    const at =
      'ssidId' in place
        ? document.kind === 'ap' && document.ssids.find((each) => each.id === place.ssidId)?.name
        : id === place.deviceId && document.ports.find(({ name }) => name === place.port)?.name;
    return device && at ? [[device, document, at] as const] : [];
  });
  const found = here.find(([device]) => device.online) ?? here[0];
  if (!found) throw unknown('such place at the site');
  return found;
}

const isOf = ({ place }: Gets, tried: GetsTry['place']): boolean =>
  'ssidId' in tried
    ? place.kind === 'ssid' && place.id === tried.ssidId
    : place.kind === 'ports' &&
      place.ports.some((each) => each.deviceId === tried.deviceId && each.port === tried.port);

const whyNot = ({ server, exchange: { end, why } }: AskedOne): string =>
  `“${server}” ${end === 'rejected' ? 'turns them away' : 'did not let them in'}. ${why}`.trim();

/** Where what was got differs from what was computed. */
function differences(
  expected: Gets | undefined,
  got: Pick<GetsTried, 'accessClass' | 'segment' | 'stops'>,
  last: AskedOne | undefined,
): string[] {
  if (!expected) return [];
  if (expected.stops !== null)
    return got.stops === null ? [`They are let in, into ${got.segment}, and were not to be: ${expected.stops}`] : [];
  if (got.stops !== null) return [`They were to be let in, into ${expected.segment!.name}, and are not: ${got.stops}`];
  const words: string[] = [];
  const named = (name: string | null): string => (name === null ? 'no class' : `the class “${name}”`);
  if ((expected.accessClass?.name ?? null) !== got.accessClass)
    words.push(`They get ${named(got.accessClass)}, and were to get ${named(expected.accessClass?.name ?? null)}.`);
  if (expected.segment!.name !== got.segment)
    words.push(`They are in ${got.segment}, and were to be in ${expected.segment!.name}.`);
  if (last && expected.server !== null && last.server !== expected.server)
    words.push(`“${last.server}” said so, and “${expected.server}” was to be asked first.`);
  return words;
}
