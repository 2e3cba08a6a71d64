import { formatPrefix, nextFreePrefix, parsePrefix } from '../../address';
import { flaw, readColumns, type CheckedRow, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import {
  apply,
  TAGGED_WORDS,
  uplinkSettings,
  usualPair,
  widerReach,
  type Intent,
  type Member,
  type MemberKey,
  type Operation,
  type Pair,
  type RosterDevice,
  type RosterLookup,
  type SitePart,
} from '../../intent';
import { stampRecipe, subnetsWithin } from '../../lattice';
import { readCoordinates } from '../coordinates';
import { nameDevices } from '../device-name';
import { readTags, type SerialListContext } from '../serial-list';
import { proposeSiteCode } from '../site-code';
import { foundSite } from '../site-founding';
import { BRANCH_COLUMNS, type BranchColumn } from './branch-list';
import {
  LONGEST_FROM_POOL,
  MOST_BRANCHES,
  SHORTEST_FROM_POOL,
  type BranchesAsked,
  type BranchesCommon,
  type BranchPart,
  type BranchPlan,
  type BranchSite,
  type ComposedBranches,
  type MadeBranches,
} from './branch';
import { readBoxes, type Box } from './boxes';
import { steeringLike } from './steering';
import { coveredUplinks, readUplinks, uplinkIs } from './uplink-words';
import { zoneOf } from './zone';

/** What branches are made with, beside what is asked. */
export interface BranchMeans {
  /** With what drafts that are open have planned. */
  readonly intent: Intent;
  /** Devices that are there, and those that are expected. */
  readonly roster: readonly RosterDevice[];
  /** What boxes are checked against. */
  readonly known: Pick<SerialListContext, 'models' | 'serials' | 'names'>;
  /** Boxes that call, or did, and are nobody’s, by serial number. */
  readonly heard: ReadonlyMap<string, { readonly id: string; readonly model: string }>;
  /** Two letters of the country that rows say nothing of. */
  readonly country: string;
  readonly countryOf: (text: string) => string | undefined;
  readonly idFor: () => string;
  readonly keyFor: () => MemberKey;
}

type Values = Readonly<Record<BranchColumn, string>>;

/**
 * Composes branches, a row each: a site with room in the address plan, segments by recipe, its boxes as they are expected, uplinks,
 * steering, and how it is joined to its hubs. Each row is made on what those before it made; one that cannot be made leaves nothing.
 */
export function composeBranches({ table, common }: BranchesAsked, means: BranchMeans): ComposedBranches {
  const none: MadeBranches = { sites: [], expected: [], operations: [], secrets: {} };
  const failed = (...flaws: Flaw[]): ComposedBranches => ({
    ...{ rows: [], flaws, shared: [], made: none, after: means.intent },
  });
  if (table.length > MOST_BRANCHES + 1)
    return failed(flaw('list.long', `${MOST_BRANCHES} branches are made in one go at most; part the list.`));
  const list = readColumns(table, BRANCH_COLUMNS);
  if (list.flaws.length > 0) return failed(...list.flaws);
  if (list.rows.length === 0) return failed(flaw('list.empty', 'The list is empty. Put one branch on each line.'));
  const wrong = checkCommon(means.intent, common);
  if (wrong.length > 0) return failed(...wrong);
  const composition = new Composition(common, means);
  const codes = new Set(list.rows.map(({ values }) => values.code.toLowerCase()).filter((code) => code !== ''));
  const rows = list.rows.map(({ line, values }): CheckedRow<BranchPlan> => {
    const covered = { ...values, uplinks: coveredUplinks(values.uplinks) };
    const made = composition.add(values, codes);
    return 'flaws' in made
      ? { line, values: covered, good: null, flaws: made.flaws }
      : { line, values: covered, good: made.plan, flaws: [] };
  });
  return { rows, flaws: [], ...composition.end() };
}

/** What is wrong with what all rows have in common. */
function checkCommon({ estate, sites }: Intent, { recipeIds, hubs, like, pool }: BranchesCommon): Flaw[] {
  const flaws: Flaw[] = [];
  if (recipeIds.some((id) => !estate.recipes?.some((each) => each.id === id)))
    flaws.push(flaw('branch.recipe', 'One of the recipes is no longer there.', 'segments'));
  const strange = hubs.find((id) => hubAt(estate.members, id) === null);
  if (strange !== undefined)
    flaws.push(flaw('branch.hub', `${sites.get(strange)?.name ?? 'A site'} is no hub.`, 'hubs'));
  if (like !== null && !sites.has(like))
    flaws.push(flaw('branch.like', 'The site that they are to be steered like is no longer there.', 'like'));
  if (pool) {
    const prefix = parsePrefix(pool.prefix);
    const { length } = pool;
    if (prefix?.version !== 4)
      flaws.push(flaw('branch.pool', `“${pool.prefix}” is no prefix of IPv4: such as 10.250.0.0/16.`, 'pool'));
    else if (!(Number.isInteger(length) && length >= SHORTEST_FROM_POOL && length <= LONGEST_FROM_POOL))
      flaws.push(flaw('branch.pool', `Each gets ${SHORTEST_FROM_POOL} to ${LONGEST_FROM_POOL} bits.`, 'pool'));
    else if (prefix.length > length)
      flaws.push(flaw('branch.pool', `A /${length} does not fit into ${pool.prefix}.`, 'pool'));
  }
  return flaws;
}

const hubAt = (members: readonly Member[] = [], siteId: string): Member | null =>
  members.find((each) => each.siteId === siteId && each.role === 'hub') ?? null;

class Composition {
  private now: Intent;
  private readonly roster: Map<string, RosterDevice>;
  private readonly sites: BranchSite[] = [];
  private readonly expected: MadeBranches['expected'][number][] = [];
  private readonly operations: Operation[] = [];
  private readonly secrets: Record<string, string> = {};
  private readonly serials: Map<string, string>;
  private readonly names: Set<string>;

  constructor(
    private readonly common: BranchesCommon,
    private readonly means: BranchMeans,
  ) {
    this.now = means.intent;
    this.roster = new Map(means.roster.map((device) => [device.id, device]));
    this.serials = new Map(means.known.serials);
    this.names = new Set(means.known.names.keys());
  }

  /** @param codes short forms that rows ask for: none is derived that another row wants. */
  add(values: Values, codes: ReadonlySet<string>): { readonly plan: BranchPlan } | { readonly flaws: readonly Flaw[] } {
    const branch = new OneBranch(values, this.common, this.means, { intent: this.now, roster: this.roster });
    const made = branch.make(codes, { serials: this.serials, names: this.names });
    if (branch.flaws.length > 0 || !made) return { flaws: branch.flaws };
    this.now = branch.intent;
    this.sites.push(made.site);
    this.operations.push(...branch.operations);
    Object.assign(this.secrets, branch.secrets);
    for (const device of made.devices) {
      this.roster.set(device.roster.id, device.roster);
      this.expected.push(device.expected);
      this.serials.set(device.expected.serial, `at ${made.site.part.name}, on a line before`);
      if (device.expected.name) this.names.add(device.expected.name);
    }
    const { id: siteId, name } = made.site.part;
    return { plan: { siteId, name, parts: branch.parts } };
  }

  /** What changes for all of them together, and all that makes them. */
  end(): Pick<ComposedBranches, 'shared' | 'made' | 'after'> {
    const wider = widerReach(
      this.now.estate,
      this.sites.map(({ part, wish }) => ({ siteId: part.id, tags: wish.tags })),
    );
    const fitting = wider.filter(({ operation }) => {
      const result = apply(this.now, operation, (id) => this.roster.get(id));
      if (result.ok) this.now = result.intent;
      return result.ok;
    });
    this.operations.push(...fitting.map(({ operation }) => operation));
    const shared = fitting.map(({ thing: { kind, name }, tag, more }): BranchPart => ({
      what: `${TAGGED_WORDS[kind]} ${name}`,
      is: `reaches ${more === 1 ? 'one of them' : `${more} of them`} too`,
      from: `the tag ${tag}`,
    }));
    const { sites, expected, operations, secrets } = this;
    return { shared, made: { sites, expected, operations, secrets }, after: this.now };
  }
}

/** One row on its way to a branch. */
class OneBranch {
  readonly parts: BranchPart[] = [];
  readonly operations: Operation[] = [];
  readonly secrets: Record<string, string> = {};
  readonly flaws: Flaw[] = [];
  intent: Intent;
  private readonly roster: Map<string, RosterDevice>;

  constructor(
    private readonly values: Values,
    private readonly common: BranchesCommon,
    private readonly means: BranchMeans,
    on: { readonly intent: Intent; readonly roster: ReadonlyMap<string, RosterDevice> },
  ) {
    this.intent = on.intent;
    this.roster = new Map(on.roster);
  }

  make(
    codes: ReadonlySet<string>,
    taken: { readonly serials: ReadonlyMap<string, string>; readonly names: ReadonlySet<string> },
  ) {
    const { values, means } = this;
    const boxes = readBoxes(values, { ...means, serials: taken.serials });
    this.flaws.push(...boxes.flaws);
    const site = this.found(codes);
    if (!site || boxes.flaws.length > 0) return null;
    const { part } = site;
    this.intent = { ...this.intent, sites: new Map(this.intent.sites).set(part.id, part) };
    const devices = this.expect(part, boxes.boxes, taken.names);
    const gateway = devices[0]!.roster;
    this.segments(part.id);
    this.uplinks(part.id, gateway);
    this.steering(part.id, gateway);
    this.pair(
      part.id,
      devices.map(({ roster }) => roster),
    );
    this.join(part.id, gateway);
    return { site, devices };
  }

  /** The site, in room of its own. */
  private found(codes: ReadonlySet<string>): BranchSite | null {
    const { values, means } = this;
    const sites = [...this.intent.sites.values()];
    const country = values.country === '' ? means.country : (means.countryOf(values.country) ?? values.country);
    const zone = values.timeZone === '' ? zoneOf(country, sites) : { zone: values.timeZone, from: null };
    const coordinates = values.coordinates === '' ? null : readCoordinates(values.coordinates);
    if (values.coordinates !== '' && !coordinates)
      this.flaws.push(
        flaw('branch.coordinates', `“${values.coordinates}” is no place: such as 53.3498, -6.2603.`, 'coordinates'),
      );
    if (!zone)
      this.flaws.push(
        flaw('branch.zone', 'Its country has several time zones, and no other site is there: say which.', 'timeZone'),
      );
    const typed = values.code.toLowerCase();
    const taken = [...sites.map(({ code }) => code), ...codes];
    const code = typed === '' ? proposeSiteCode(values.name, taken) : typed;
    const tags = readTags(values.tags);
    const wish = { name: values.name, code, country, timeZone: zone?.zone ?? 'UTC', tags };
    if (wish.name.length > 60) this.flaws.push(flaw('site.name-long', 'A name has 60 characters at most.', 'name'));
    const ids = { site: means.idFor(), management: means.idFor() };
    const pooled = this.fromPool();
    const founded = foundSite(this.intent, { ...wish, address: values.address.slice(0, 200) }, ids, pooled);
    if (!founded.ok) {
      this.flaws.push(...founded.flaws.filter((each) => zone || each.field !== 'timeZone'));
      return null;
    }
    if (this.flaws.length > 0) return null;
    const { part } = founded;
    this.say('Short form', code, typed === '' ? 'the name' : null);
    this.say('Country', country, values.country === '' ? 'the estate' : null);
    this.say('Time zone', wish.timeZone, zone!.from);
    const [management] = part.segments;
    const { pool } = this.common;
    this.say(
      'Management',
      `${management!.subnet}, its router ${management!.gateway}`,
      pool?.prefix ?? 'the address plan',
    );
    return { part, wish: { ...wish, address: values.address.slice(0, 200) }, coordinates };
  }

  /** The management subnet that is next in the pool; undefined where there is no pool, or nothing is free in it. */
  private fromPool(): string | undefined {
    const { pool } = this.common;
    if (!pool) return undefined;
    const prefix = parsePrefix(pool.prefix)!;
    const free = nextFreePrefix(prefix, subnetsWithin(this.intent, prefix), pool.length);
    if (free) return formatPrefix(free);
    this.flaws.push(flaw('branch.pool-full', `No /${pool.length} is free in ${pool.prefix} any more.`, 'name'));
    return undefined;
  }

  private expect({ id: siteId, code }: SitePart, boxes: readonly Box[], taken: ReadonlySet<string>) {
    const tags: readonly string[] = [];
    const names = nameDevices(code, boxes, taken);
    return boxes.map(({ serial, model, id }, i) => {
      const name = names[i]!;
      const kind = sheetFor({ model }).kind;
      const roster: RosterDevice = { id, siteId, name, serial, model, expected: true };
      this.roster.set(id, roster);
      this.say(name, `${model} ${serial}, ${kind === 'ap' ? 'AP' : kind}, expected`, 'the short form');
      const expected = { id, serial, model, siteId, name, mac: null, tags, policy: 'leave' as const };
      return { roster, expected };
    });
  }

  /** Segments by recipe, in the order of the recipes. */
  private segments(siteId: string): void {
    const { recipes = [] } = this.intent.estate;
    const named = parted(this.values.segments);
    const strange = named.find((name) => !recipes.some((each) => each.name.toLowerCase() === name));
    if (strange !== undefined) {
      this.flaws.push(flaw('branch.recipe', `There is no recipe “${strange}”.`, 'segments'));
      return;
    }
    const wanted = recipes.filter(({ id, name }) =>
      named.length > 0 ? named.includes(name.toLowerCase()) : this.common.recipeIds.includes(id),
    );
    for (const recipe of wanted) {
      const [stamp] = stampRecipe(this.intent, recipe, [siteId], this.means.idFor);
      if (!stamp || stamp.flaws.length > 0) {
        this.flaws.push(...(stamp?.flaws ?? []).map((each) => ({ ...each, field: 'segments' })));
        continue;
      }
      if (this.edit(stamp.operations, 'segments'))
        this.say(recipe.name, `VLAN ${recipe.vlan}, ${stamp.subnet}`, 'its recipe');
    }
  }

  private uplinks(siteId: string, gateway: RosterDevice): void {
    const read = readUplinks(this.values.uplinks, gateway, this.means.idFor);
    this.flaws.push(...read.flaws);
    for (const { port, entry, password } of read.uplinks) {
      const edit: Operation = {
        ...{ type: 'uplink.set', siteId, deviceId: gateway.id, port, from: null, to: entry },
      };
      if (!this.edit([edit], 'uplinks')) continue;
      if (entry.login && password !== null) this.secrets[entry.login.password.secret] = password;
      this.say(`Uplink ${port}`, uplinkIs(entry), null);
    }
  }

  /** Steered like another: its courses as far as they can be here, and how uplinks are used together. */
  private steering(siteId: string, gateway: RosterDevice): void {
    const { like } = this.common;
    if (like === null) return;
    const from = this.intent.sites.get(like)!;
    for (const { operation, what, is } of steeringLike(this.intent, from, this.lookup, {
      ...{ siteId, deviceId: gateway.id, idFor: this.means.idFor },
    })) {
      const result = operation && apply(this.intent, operation, this.lookup);
      if (result?.ok) {
        this.intent = result.intent;
        this.operations.push(operation!);
        this.say(what, is, from.name);
      } else this.say(what, `left out: ${result?.flaws[0]?.message ?? is}`, from.name);
    }
  }

  /** Two gateways take turns. */
  private pair(siteId: string, devices: readonly RosterDevice[]): void {
    const [first, second] = devices.filter((device) => sheetFor(device).kind === 'gateway');
    if (!first || !second) return;
    const site = this.intent.sites.get(siteId)!;
    const ports = (device: RosterDevice): string[] => uplinkSettings(site, device).map(({ port }) => port);
    const to: Pair = {
      ...usualPair(first.id, second.id),
      tracks: { first: ports(first), second: ports(second) },
    };
    if (this.edit([{ type: 'pair.set', siteId, from: null, to }], 'devices'))
      this.say('Pair of gateways', `${first.name} routes, ${second.name} takes over`, 'the second gateway');
  }

  private join(siteId: string, gateway: RosterDevice): void {
    const { values, common, means } = this;
    const { members = [] } = this.intent.estate;
    const named = parted(values.hubs);
    const hubIds: string[] = [];
    for (const name of named) {
      const site = [...this.intent.sites.values()].find((each) => [each.name.toLowerCase(), each.code].includes(name));
      if (!site || !hubAt(members, site.id)) {
        this.flaws.push(flaw('branch.hub', site ? `${site.name} is no hub.` : `There is no site “${name}”.`, 'hubs'));
        return;
      }
      hubIds.push(site.id);
    }
    const hubSites = named.length > 0 ? hubIds : common.hubs;
    if (hubSites.length === 0) return;
    const segments = this.shared(siteId);
    if (!segments) return;
    const member: Member = {
      ...{ id: means.idFor(), siteId, deviceId: gateway.id, role: 'spoke', direct: [], prefixes: [], takes: null },
      ...{ hubs: hubSites.map((id) => hubAt(members, id)!.id), segments, leaves: common.leaves, found: {} },
      key: means.keyFor(),
    };
    if (!this.edit([{ type: 'member.add', member }], 'hubs')) return;
    const hubs = hubSites.map((id) => this.intent.sites.get(id)!.name).join(', then ');
    const leaves = common.leaves === 'hub' ? '; all that leaves does so by its hub' : '';
    this.say('Joined', `by ${hubs}${leaves}`, named.length > 0 ? null : 'what all have');
    const join = this.intent.estate.joins?.[member.id];
    this.say('Shares', join?.carries.join(', ') || 'nothing', segments === 'all' ? 'its segments' : null);
    this.say('Key', 'a pair of its own, made here and shown to nobody', 'the controller');
  }

  /** Ids of the segments that others reach; null: one that is named is not there. */
  private shared(siteId: string): Member['segments'] | null {
    const own = parted(this.values.shares);
    const names = own.length > 0 ? own : this.common.shares.map((name) => name.toLowerCase());
    if (names.length === 0 || names.includes('all')) return 'all';
    const { segments } = this.intent.sites.get(siteId)!;
    const found = names.map((name) => segments.find((each) => each.name.toLowerCase() === name)?.id);
    const missing = names.find((_, i) => found[i] === undefined);
    if (missing === undefined) return found.flatMap((id) => id ?? []);
    this.flaws.push(flaw('branch.shares', `It will have no segment “${missing}” to share.`, 'shares'));
    return null;
  }

  /** Makes edits; what refuses one is said of the column. */
  private edit(operations: readonly Operation[], column: BranchColumn): boolean {
    for (const operation of operations) {
      const result = apply(this.intent, operation, this.lookup);
      if (!result.ok) {
        this.flaws.push(...result.flaws.map(({ code, message }) => flaw(code, message, column)));
        return false;
      }
      this.intent = result.intent;
      this.operations.push(operation);
    }
    return true;
  }

  private readonly lookup: RosterLookup = (id) => this.roster.get(id);

  private say(what: string, is: string, from: string | null): void {
    this.parts.push({ what, is, from });
  }
}

/** Names of one cell, parted by semicolons or commas; in small letters. */
const parted = (text: string): string[] =>
  text
    .split(/[;,]/)
    .map((each) => each.trim().toLowerCase())
    .filter((each) => each !== '');
