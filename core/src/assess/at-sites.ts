import { sheetFor } from '../hardware';
import {
  everyNoun,
  landedAt,
  reaches,
  ssidAt,
  type EstatePart,
  type Intent,
  type Landed,
  type RosterDevice,
  type Segment,
  type SharedKind,
  type SharedThing,
  type SitePart,
  type Ssid,
  type SsidException,
  type Wanted,
} from '../intent';
import { followsRecipe } from '../lattice';
import type { DraftView } from './draft.contract';

/** What sites share as a draft has it, and what of it meets nothing where it reaches. */
export interface EstateDraft {
  readonly draft: DraftView;
  readonly estate: EstatePart;
  readonly counts: readonly SharedCount[];
  /** Names that sites have, for whoever writes one down. */
  readonly names: readonly NameAtSites[];
}

/** At how many sites a shared thing applies, and at how many of these something is missing that it names. */
export interface SharedCount {
  readonly kind: SharedKind;
  readonly id: string;
  readonly reached: number;
  readonly lacking: number;
}

/** A name of a segment, a pool or a site's own set, and at how many sites it means one. */
export interface NameAtSites {
  readonly kind: 'segment' | 'pool' | 'set';
  readonly name: string;
  readonly sites: number;
  /** Of segments: their VLAN IDs, ascending. */
  readonly vlans: readonly number[];
}

/** What a shared thing is at one site. */
export interface SharedAtSite {
  readonly siteId: string;
  readonly site: string;
  /** The segment that it names, or that was stamped from it. */
  readonly segment: Pick<Segment, 'id' | 'name' | 'vlan' | 'subnet'> | null;
  /** VLAN IDs of the pool that it names instead. */
  readonly pool: string | null;
  /** Of an SSID that carries its clients to another site: the segment there, and whose it is. */
  readonly landed: string | null;
  /** Names that mean nothing at the site, such as “segment Crew”. */
  readonly lacks: readonly string[];
  /** Of an SSID: APs that send it. */
  readonly aps: number;
  /** Of an SSID: fields of which the site says something of its own. */
  readonly otherwise: readonly (keyof SsidException)[];
  /** Of a recipe: whether the segment is no longer as it says. */
  readonly differs: boolean;
}

/** What a site has of each kind, by name. */
interface Has {
  readonly site: SitePart;
  readonly segments: ReadonlyMap<string, Segment>;
  /** The same by name in lower case: what joins a segment does not mind. */
  readonly joined: ReadonlyMap<string, Segment>;
  readonly sets: ReadonlySet<string>;
  readonly devices: ReadonlySet<string>;
}

/** A draft's intent seen from what sites share. Names are looked up as sites look them up; nothing is compiled. */
export class AtSites {
  private readonly things: readonly SharedThing[];
  private readonly roster: ReadonlyMap<string, readonly RosterDevice[]>;
  private readonly ssids: ReadonlyMap<string, Ssid>;
  private readonly has: readonly Has[];
  /** Sites at which a name means nothing, by what is looked up: many things name the same. */
  private readonly missing = new Map<string, ReadonlySet<Has>>();

  /** @param tags of each site, by id. */
  constructor(
    private readonly intent: Intent,
    roster: readonly RosterDevice[],
    private readonly tags: ReadonlyMap<string, readonly string[]>,
  ) {
    this.things = everyNoun().flatMap((noun) => noun.shared?.(intent.estate) ?? []);
    this.roster = bySite(roster);
    this.ssids = new Map(intent.estate.ssids.map((ssid) => [ssid.id, ssid]));
    this.has = [...intent.sites.values()].map((site) => this.hasOf(site));
  }

  /** Of each shared thing at how many sites it applies, and how many lack what it names. */
  counts(): SharedCount[] {
    return this.things.map((thing) => {
      const there = this.has.filter((has) => this.applies(thing, has));
      const missing = thing.wants.map((wanted) => this.missingAt(wanted)).filter(({ size }) => size > 0);
      const lacksHere = (has: Has): boolean =>
        thing.at?.has(has.site.id) ? this.lacks(thing, has).length > 0 : missing.some((sites) => sites.has(has));
      const lacking = there.filter(
        (has) => this.differs(thing, has) || lacksHere(has) || this.landed(thing, has)?.segment === null,
      );
      return { kind: thing.kind, id: thing.id, reached: there.length, lacking: lacking.length };
    });
  }

  /** One of them at every site where it applies, those first that lack something; null where there is none of that id. */
  of(kind: SharedKind, id: string): SharedAtSite[] | null {
    const thing = this.things.find((each) => each.kind === kind && each.id === id);
    if (!thing) return null;
    const rows = this.has.filter((has) => this.applies(thing, has)).map((has) => this.rowOf(thing, has));
    const flawed = ({ lacks, differs }: SharedAtSite): number => Number(lacks.length > 0 || differs);
    return rows.sort((a, b) => flawed(b) - flawed(a) || (a.site < b.site ? -1 : a.site > b.site ? 1 : 0));
  }

  /** Names of segments, pools and sets, each with the sites that have it; those that most have first. */
  names(): NameAtSites[] {
    const found = new Map<string, { kind: NameAtSites['kind']; name: string; sites: number; vlans: Set<number> }>();
    const add = (kind: NameAtSites['kind'], name: string, vlan?: number): void => {
      const key = `${kind} ${name.toLowerCase()}`;
      const one = found.get(key) ?? { kind, name, sites: 0, vlans: new Set() };
      found.set(key, one);
      one.sites++;
      if (vlan !== undefined) one.vlans.add(vlan);
    };
    for (const { site } of this.has) {
      for (const { name, vlan } of site.segments) add('segment', name, vlan);
      for (const { name } of site.pools ?? []) add('pool', name);
      for (const { name } of site.sets ?? []) add('set', name);
    }
    return [...found.values()]
      .map((one) => ({ ...one, vlans: [...one.vlans].sort((a, b) => a - b) }))
      .sort((a, b) => b.sites - a.sites || (a.name < b.name ? -1 : 1));
  }

  private hasOf(site: SitePart): Has {
    const sets = [...(this.intent.estate.sets ?? []), ...(site.sets ?? [])];
    return {
      site,
      segments: new Map(site.segments.map((segment) => [segment.name, segment])),
      joined: new Map(site.segments.map((segment) => [segment.name.toLowerCase(), segment])),
      sets: new Set(sets.map(({ name }) => name)),
      devices: new Set(this.roster.get(site.id)?.map(({ name }) => name)),
    };
  }

  private applies({ kind, id, reach, tag }: SharedThing, { site }: Has): boolean {
    if (kind === 'recipe') return stampedFrom(site, id) !== undefined;
    return reaches(reach, site.id) && (!tag || (this.tags.get(site.id) ?? []).includes(tag));
  }

  private lacks(thing: SharedThing, has: Has): readonly Wanted[] {
    return wantsAt(thing, has).filter((wanted) => this.missingAt(wanted).has(has));
  }

  private missingAt(wanted: Wanted): ReadonlySet<Has> {
    const key = `${wanted.kind} ${wanted.joined ?? ''} ${wanted.name}`;
    const known = this.missing.get(key);
    if (known) return known;
    const found = new Set(this.has.filter((has) => !this.isThere(wanted, has)));
    this.missing.set(key, found);
    return found;
  }

  private isThere({ kind, name, joined }: Wanted, has: Has): boolean {
    const { estate } = this.intent;
    if (joined && has.joined.has(name.toLowerCase())) return true;
    if (joined) return joined === 'segment or pool' && poolNamed(has, name) !== null;
    if (kind === 'segment') return has.segments.has(name);
    if (kind === 'set') return has.sets.has(name);
    if (kind === 'device') return has.devices.has(name);
    const list = kind === 'ssid' ? estate.ssids : (estate.classes ?? []);
    return list.some((each) => each.name === name && reaches(each.reach, has.site.id));
  }

  /** Where an SSID carries its clients at another site; null: nowhere else. */
  private landed({ kind, id }: SharedThing, { site }: Has): Landed | null {
    const ssid = kind === 'ssid' ? this.ssid(id) : undefined;
    return ssid ? landedAt(this.intent.estate, ssidAt(ssid, site.id), site.id) : null;
  }

  private differs({ kind, id }: SharedThing, { site }: Has): boolean {
    if (kind !== 'recipe') return false;
    const recipe = this.intent.estate.recipes?.find((each) => each.id === id);
    const segment = stampedFrom(site, id);
    return recipe !== undefined && segment !== undefined && !followsRecipe(segment, recipe);
  }

  private rowOf(thing: SharedThing, has: Has): SharedAtSite {
    const { kind, id } = thing;
    const { site } = has;
    const joins = wantsAt(thing, has).find(({ joined }) => joined);
    const segment = kind === 'recipe' ? stampedFrom(site, id) : has.joined.get(joins?.name.toLowerCase() ?? '');
    const landed = this.landed(thing, has);
    const nowhere = landed?.segment === null ? [`segment ${this.ssid(id)!.segment} at ${landed.name}`] : [];
    const pool = !segment && joins?.joined === 'segment or pool' ? poolNamed(has, joins.name) : null;
    return {
      siteId: site.id,
      site: site.name,
      segment: segment ? { id: segment.id, name: segment.name, vlan: segment.vlan, subnet: segment.subnet } : null,
      pool,
      landed: landed?.segment ? `${landed.segment.name}, ${landed.name}` : null,
      lacks: [...this.lacks(thing, has).map(({ kind: of, name }) => `${WORDS[of]} ${name}`), ...nowhere],
      aps: kind === 'ssid' && (segment || pool !== null || landed?.segment) ? this.apsFor(id, site.id) : 0,
      otherwise: kind === 'ssid' ? saidAt(this.ssid(id), site.id) : [],
      differs: this.differs(thing, has),
    };
  }

  private ssid = (ssidId: string): Ssid | undefined => this.ssids.get(ssidId);

  private apsFor(ssidId: string, siteId: string): number {
    const ssid = this.ssid(ssidId);
    const { bands, off } = ssid ? ssidAt(ssid, siteId) : { bands: [] as const, off: true };
    if (off) return 0;
    return (this.roster.get(siteId) ?? []).filter((device) =>
      sheetFor(device).radios.some(({ band }) => bands.some((each) => each === band)),
    ).length;
  }
}

const saidAt = (ssid: Ssid | undefined, siteId: string): readonly (keyof SsidException)[] =>
  Object.keys(ssid?.exceptions?.[siteId] ?? {}) as (keyof SsidException)[];
const wantsAt = ({ wants, at }: SharedThing, { site }: Has): readonly Wanted[] => at?.get(site.id) ?? wants;

const WORDS: Readonly<Record<Wanted['kind'], string>> = {
  segment: 'segment',
  ssid: 'SSID',
  class: 'class',
  set: 'set',
  device: 'device',
};

function bySite(roster: readonly RosterDevice[]): ReadonlyMap<string, readonly RosterDevice[]> {
  const found = new Map<string, RosterDevice[]>();
  for (const device of roster) {
    const there = found.get(device.siteId);
    if (there) there.push(device);
    else found.set(device.siteId, [device]);
  }
  return found;
}

const stampedFrom = (site: SitePart, recipeId: string): Segment | undefined =>
  site.segments.find((segment) => segment.recipeId === recipeId);

/** VLAN IDs of a site's pool of some name. */
const poolNamed = ({ site }: Has, name: string): string | null =>
  site.pools?.find((pool) => pool.name.toLowerCase() === name.toLowerCase())?.vlans ?? null;
