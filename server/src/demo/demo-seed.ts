import { createHash, randomUUID } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import type { Role } from '@iron-lattice/core/base';
import { userKey } from '@iron-lattice/core/entry';
import type { FirmwareRelease, UpdateWindow } from '@iron-lattice/core/firmware';
import type { Coordinates } from '@iron-lattice/core/intake';
import type { Band } from '@iron-lattice/core/hardware';
import {
  AIRED,
  USUAL_SERVER,
  withJoins,
  withPortEntry,
  type EstatePart,
  type Intent,
  type KeptGuarantee,
  type Member,
  type PortEntry,
  type AccessClass,
  type RadioEntry,
  type RadiusServer,
  type Recipe,
  type Segment,
  type SitePart,
  type Course,
  type Publication,
  type UplinkEntry,
} from '@iron-lattice/core/intent';
import type { SsidSecurity } from '@iron-lattice/core/document';
import {
  readEnds,
  readServices,
  readTimes,
  type NamedSet,
  type Rule,
  type Verdict,
} from '@iron-lattice/core/rules';
import type { Ground } from '../ground';
import { curveKeys } from '../platform/curve-keys';
import { hashPassword } from '../platform/password-hash';
import { Device } from '../roster/device.model';
import { Estate, Site } from '../intent/intent.model';

/** An estate to begin with, as a file: names in place of ids. */
interface EstateFile {
  readonly name: string;
  readonly country?: string;
  readonly timeZone?: string;
  readonly window?: UpdateWindow;
  readonly people: readonly { name: string; email: string; role: Role; password: string }[];
  readonly ssids: readonly {
    name: string;
    security: SsidSecurity;
    passphrase: string;
    bands: readonly Band[];
    segment: string;
    sites: readonly string[];
  }[];
  readonly sites: readonly {
    name: string;
    code: string;
    country: string;
    timeZone: string;
    address?: string;
    coordinates?: Coordinates;
    tags?: string[];
    segments: readonly Omit<Segment, 'id'>[];
    devices: readonly { name: string; serial: string; model: string; mac: string; firmware: string }[];
    duties?: readonly { name: string; untagged: string | null; tagged: readonly string[] }[];
    readonly rules?: readonly RuleLine[];
    readonly bands?: SitePart['bands'];
    readonly radios?: readonly ({ device: string; band: Band } & RadioEntry)[];
    readonly uplinks?: readonly ({ device: string; port: string } & UplinkEntry)[];
    /** In their order. */
    readonly courses?: readonly CourseLine[];
    readonly publications?: readonly PublicationLine[];
    /** A duty by name, or what the port carries. */
    ports: readonly {
      device: string;
      port: string;
      duty?: string;
      untagged?: string | null;
      tagged?: readonly string[];
    }[];
  }[];
  readonly classes?: readonly (Omit<AccessClass, 'id' | 'reach'> & { readonly sites: readonly string[] })[];
  readonly recipes?: readonly Omit<Recipe, 'id'>[];
  /** Users that the controller keeps, people with a password, devices without. */
  readonly users?: readonly {
    name: string;
    password?: string;
    groups: readonly string[];
    until?: string;
    most?: number;
    note?: string;
  }[];
  /** Servers as usual, of all sites. */
  readonly radius?: readonly { name: string; address: string; secret: string; order?: number; purpose?: string }[];
  /** Where this controller answers. */
  readonly controller?: readonly string[];
  /** Sites that are joined by tunnels, each with its gateway; hubs by name. */
  readonly joined?: { readonly spans: readonly string[]; readonly sites: readonly JoinedLine[] };
  readonly rulesBefore?: readonly RuleLine[];
  readonly rulesAfter?: readonly RuleLine[];
  readonly sets?: readonly NamedSet[];
  readonly guarantees?: readonly GuaranteeLine[];
}

/** A rule or a guarantee as it would be typed. */
interface TypedEnds {
  readonly from: string;
  readonly to: string;
  readonly services?: string;
}
/** A course; said where it is not as usual. */
interface CourseLine extends TypedEnds, Pick<Course, 'name' | 'ports'>, Partial<Pick<Course, 'how' | 'otherwise' | 'needs'>> {
  readonly device: string;
}
/** Something published; said where it is not as usual. */
interface PublicationLine extends Pick<Publication, 'name' | 'outside' | 'address'>, Partial<Pick<Publication, 'protocol' | 'inside' | 'within'>> {
  readonly device: string;
  readonly from: string;
}
interface JoinedLine {
  readonly site: string;
  readonly device: string;
  /** Absent: it is one. */
  readonly hubs?: readonly string[];
  /** At which addresses others find its uplinks. */
  readonly found?: Readonly<Record<string, string>>;
}
interface RuleLine extends TypedEnds {
  readonly verdict: Verdict;
  readonly comment?: string;
  readonly times?: string;
  readonly log?: boolean;
}
interface GuaranteeLine extends TypedEnds {
  readonly kind: KeptGuarantee['kind'];
  readonly besides?: string;
  readonly tag?: string;
}

const IMAGE_OCTETS = 96_000;

/** Releases for the demo's models: what is said of them is in a file, their images are made up from their names. */
async function addReleases(estatePath: string, catalogue: Ground['catalogue']): Promise<void> {
  const path = estatePath.replace('.estate.', '.firmware.');
  if (path === estatePath || !existsSync(path)) return;
  const { releases } = JSON.parse(readFileSync(path, 'utf8')) as { releases: readonly FirmwareRelease[] };
  for (const release of releases) {
    const seed = createHash('sha512').update(`${release.model} ${release.version}`).digest();
    await catalogue.add({ ...release, image: Buffer.alloc(IMAGE_OCTETS, seed) }, null);
  }
}

/** Users that the controller keeps, made by the first person there is. */
async function addUsers(users: NonNullable<EstateFile['users']>, database: Ground['database']): Promise<void> {
  for (const { name, password, groups, until, most, note } of users) {
    const hash = password === undefined ? null : await hashPassword(password, 'drawn');
    await database.query(
      `INSERT INTO entry_user (id, key, name, hash, groups, until, most, note, person_id)
       SELECT :id, :key, :name, :hash, ARRAY(SELECT jsonb_array_elements_text(:groups::jsonb)), :until, :most, :note, p.id
       FROM person p ORDER BY p.role LIMIT 1`,
      {
        replacements: {
          ...{ id: randomUUID(), key: userKey(name), name, hash, groups: JSON.stringify(groups) },
          ...{ until: until ?? null, most: most ?? null, note: note ?? '' },
        },
      },
    );
  }
}

/**
 * Founds the estate of a file in an empty database; one that holds an estate is left alone. Its devices are ours
 * from the start: the first key that calls under their serial number is taken for theirs.
 */
export const seedFrom = (path: string) => async (controller: Ground): Promise<void> => {
  const { database, intents, rosters, secrets, sessions, catalogue } = controller;
  if (await Estate.findOne()) return;
  const file = JSON.parse(readFileSync(path, 'utf8')) as EstateFile;
  for (const { name, email, role, password } of file.people) await sessions.addPerson(name, email, role, password);

  const siteIds = new Map(file.sites.map((site) => [site.name, randomUUID()]));
  const passphrases: Record<string, string> = {};
  const estate: EstatePart = {
    kind: 'estate',
    id: randomUUID(),
    name: file.name,
    ssids: file.ssids.map(({ passphrase, sites, ...ssid }) => {
      const secret = randomUUID();
      passphrases[secret] = passphrase;
      const reach = { kind: 'sites' as const, siteIds: sites.map((name) => siteIds.get(name)!) };
      return { id: randomUUID(), ...ssid, passphrase: { secret }, reach };
    }),
    ...(file.classes
      ? {
          classes: file.classes.map(({ sites, ...each }) => {
            const reach = { kind: 'sites' as const, siteIds: sites.map((name) => siteIds.get(name)!) };
            return { id: randomUUID(), ...each, reach };
          }),
        }
      : {}),
    ...(file.radius
      ? {
          radius: file.radius.map(({ secret: value, ...server }): RadiusServer => {
            const secret = randomUUID();
            passphrases[secret] = value;
            return { id: randomUUID(), ...USUAL_SERVER, ...server, secret: { secret }, reach: { kind: 'estate' } };
          }),
        }
      : {}),
    ...(file.controller ? { controller: file.controller } : {}),
    ...(file.rulesBefore ? { rulesBefore: file.rulesBefore.map(ruleFrom) } : {}),
    ...(file.rulesAfter ? { rulesAfter: file.rulesAfter.map(ruleFrom) } : {}),
    ...(file.sets ? { sets: file.sets.map((set) => ({ id: randomUUID(), ...set })) } : {}),
    ...(file.guarantees ? { guarantees: file.guarantees.map(guaranteeFrom) } : {}),
    ...(file.recipes ? { recipes: file.recipes.map((recipe) => ({ id: randomUUID(), ...recipe })) } : {}),
  };
  const sites = file.sites.map((site) => siteFrom(site, siteIds.get(site.name)!));
  const founded: Intent = { estate, sites: new Map(sites.map(({ part }) => [part.id, part])) };
  const { members, keys } = membersFrom(file.joined?.sites ?? [], sites);
  const intent = file.joined
    ? withJoins({ ...founded, estate: { ...estate, overlay: { spans: file.joined.spans }, members } })
    : founded;
  await database.transaction(async (transaction) => {
    await secrets.add(passphrases, null, transaction);
    await secrets.add(keys, null, transaction, { hidden: true });
    await intents.store(intent, transaction);
    const { country, timeZone, window: updateWindow } = file;
    await Estate.create(
      {
        id: estate.id,
        name: estate.name,
        foundingHash: intents.hash(intent.estate),
        ...(country ? { country } : {}),
        ...(timeZone ? { timeZone } : {}),
        ...(updateWindow ? { updateWindow } : {}),
      },
      { transaction },
    );
    for (const [i, { part, devices }] of sites.entries()) {
      const { address = '', tags = [], coordinates = null } = file.sites[i]!;
      const { id, name, code } = part;
      const foundingHash = intents.hash(part);
      const told = { liveEstate: intents.hash(intent.estate), livePart: foundingHash };
      await Site.create({ id, name, code, foundingHash, ...told, address, tags, coordinates }, { transaction });
      const claimedAt = new Date();
      await Device.bulkCreate(devices.map((device) => ({ ...device, siteId: id, claimedAt })), { transaction });
      await rosters.retarget({ estate: intent.estate, site: part }, id, transaction);
    }
  });
  await addReleases(path, catalogue);
  await addUsers(file.users ?? [], database);
};

/** Joined sites, with the keys that are told to their gateways, by the ids of their secrets. */
function membersFrom(lines: readonly JoinedLine[], sites: readonly ReturnType<typeof siteFrom>[]) {
  const ids = new Map(lines.map(({ site }) => [site, randomUUID()]));
  const keys: Record<string, string> = {};
  const members = lines.map(({ site, device, hubs, found = {} }): Member => {
    const { part, devices } = sites.find((each) => each.part.name === site)!;
    const [pair, secret] = [curveKeys(), randomUUID()];
    keys[secret] = pair.own;
    return {
      ...{ id: ids.get(site)!, siteId: part.id, deviceId: devices.find(({ name }) => name === device)!.id, found },
      ...{ role: hubs ? 'spoke' : 'hub', hubs: (hubs ?? []).map((name) => ids.get(name)!), direct: [], leaves: 'here' },
      ...{ segments: 'all', prefixes: [], takes: null, key: { secret, public: pair.public } },
    };
  });
  return { members, keys };
}

const ruleFrom = ({ verdict, from, to, services = 'any', comment, times, log }: RuleLine): Rule => ({
  id: randomUUID(),
  verdict,
  from: readEnds(from),
  to: readEnds(to),
  services: readServices(services).services,
  ...(comment ? { comment } : {}),
  ...(times ? { times: readTimes(times)! } : {}),
  ...(log ? { log } : {}),
});

const guaranteeFrom = ({ kind, from, to, services = 'any', besides, tag }: GuaranteeLine): KeptGuarantee => ({
  id: randomUUID(),
  kind,
  from: readEnds(from),
  to: readEnds(to),
  services: readServices(services).services,
  ...(besides ? { besides: readEnds(besides) } : {}),
  ...(tag ? { tag } : {}),
});

function siteFrom(file: EstateFile['sites'][number], id: string) {
  const segments = file.segments.map((segment) => ({ id: randomUUID(), ...segment }));
  const segmentId = (name: string): string => segments.find((segment) => segment.name === name)!.id;
  const devices = file.devices.map((device) => ({ id: randomUUID(), ...device }));
  const { name, code, country, timeZone } = file;
  let part: SitePart = { kind: 'site', id, name, code, country, timeZone, managementId: segments[0]!.id, segments, ports: {} };
  if (file.rules) part = { ...part, rules: file.rules.map(ruleFrom) };
  if (file.bands) part = { ...part, bands: file.bands };
  const radios: Record<string, Partial<Record<Band, RadioEntry>>> = {};
  for (const { device, band, ...entry } of file.radios ?? []) {
    const { id: deviceId } = devices.find((each) => each.name === device)!;
    radios[deviceId] = { ...radios[deviceId], [band]: entry };
  }
  if (file.radios) part = { ...part, radios };
  const uplinks: Record<string, Record<string, UplinkEntry>> = {};
  for (const { device, port, ...entry } of file.uplinks ?? []) {
    const { id: deviceId } = devices.find((each) => each.name === device)!;
    uplinks[deviceId] = { ...uplinks[deviceId], [port]: entry };
  }
  if (file.uplinks) part = { ...part, uplinks };
  const courses = (file.courses ?? []).map(({ device, from, to, services = 'any', ...said }, i): Course => ({
    ...{ id: randomUUID(), deviceId: devices.find((each) => each.name === device)!.id, turn: i + 1 },
    ...{ from: readEnds(from), to: readEnds(to), services: readServices(services).services },
    ...{ how: 'first', otherwise: 'nothing', ...said },
  }));
  if (courses.length > 0) part = { ...part, courses };
  const publications = (file.publications ?? []).map(({ device, from, ...said }): Publication => ({
    ...{ id: randomUUID(), deviceId: devices.find((each) => each.name === device)!.id, from: readEnds(from) },
    ...{ protocol: 'tcp', ports: [], ...said },
  }));
  if (publications.length > 0) part = { ...part, publications };
  const tags = (names: readonly string[]) => names.map((name) => (name === AIRED ? AIRED : segmentId(name)));
  const carried = (untagged: string | null = null, tagged: readonly string[] = []) => ({
    untagged: untagged === null ? null : segmentId(untagged),
    tagged: tags(tagged),
  });
  const duties = (file.duties ?? []).map(({ name, untagged, tagged }) => ({
    id: randomUUID(),
    name,
    ...carried(untagged, tagged),
  }));
  if (duties.length > 0) part = { ...part, duties };
  for (const { device, port, duty, untagged, tagged } of file.ports) {
    const entry: PortEntry = duty
      ? { dutyId: duties.find((each) => each.name === duty)!.id }
      : carried(untagged, tagged);
    part = withPortEntry(part, devices.find((each) => each.name === device)!, port, entry);
  }
  return { part, devices };
}
