import { pick, sameAll } from '../base';
import type { EstatePart, ResolvedSite, RosterDevice, SiteRadios } from '../intent';

/** All that documents are worked out of: a site's intent, and the devices that are there. */
export interface Source {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
}

/** A field of the site's own intent; what sites share is read field by field as well. */
type SiteField = Exclude<keyof ResolvedSite, 'estate'>;

/** What something is worked out of. What is not named here it cannot see. */
export interface Reads<
  S extends SiteField = never,
  E extends keyof EstatePart = never,
  D extends keyof RosterDevice = never,
  F extends Facts = Facts,
> {
  readonly site?: readonly S[];
  readonly estate?: readonly E[];
  /** Of every device of the site. */
  readonly devices?: readonly D[];
  readonly facts?: F;
}

/** What is seen of a site by who reads that much of it. */
export type Seen<S extends SiteField, E extends keyof EstatePart, D extends keyof RosterDevice, F extends Facts> = Pick<
  ResolvedSite,
  S
> & { readonly [K in keyof F]: ReturnType<F[K]> } & {
  readonly estate: Pick<EstatePart, E>;
  readonly devices: readonly Pick<RosterDevice, D>[];
};

/** Something that follows from a site. The same in gives the same object out. */
export type Fact<T> = (source: Source) => T;
export type Facts = Readonly<Record<string, Fact<unknown>>>;

/** Sites are known by their segments: edits of other things leave those alone. */
type Anchor = ResolvedSite['segments'];

/**
 * A fact of a site, worked out anew only when something that it reads is another than last time.
 * @param work sees what is declared in `reads`, and nothing else.
 * @param settles whether an equal result (as JSON) keeps the former object, so that what reads this fact stays too.
 */
export function fact<
  T,
  S extends SiteField = never,
  E extends keyof EstatePart = never,
  D extends keyof RosterDevice = never,
  F extends Facts = Readonly<Record<never, never>>,
>(
  reads: Reads<S, E, D, F>,
  work: (seen: Seen<S, E, D, F>) => T,
  { settles = false }: { readonly settles?: boolean } = {},
): Fact<T> {
  const known = new WeakMap<Anchor, { readonly key: readonly unknown[]; readonly made: T }>();
  const { site: ofSite = [], estate: ofEstate = [], devices: ofDevices = [], facts = {} as F } = reads;
  const named = Object.entries(facts);
  return onceASource((source: Source): T => {
    const { site, roster } = source;
    const key: unknown[] = [];
    for (const field of ofSite) key.push(site[field]);
    for (const field of ofEstate) key.push(site.estate[field]);
    const found = named.map(([, one]) => one(source));
    key.push(...found);
    if (ofDevices.length > 0)
      for (const device of roster) for (const field of ofDevices) key.push(valueOf(device[field]));
    const before = known.get(site.segments);
    if (before && sameAll(before.key, key)) return before.made;
    const seen = {
      ...pick(site, ofSite),
      ...Object.fromEntries(named.map(([name], i) => [name, found[i]])),
      estate: pick(site.estate, ofEstate),
      devices: ofDevices.length > 0 ? roster.map((device) => pick(device, ofDevices)) : [],
    } as Seen<S, E, D, F>;
    const worked = work(seen);
    const made = settles && before && JSON.stringify(before.made) === JSON.stringify(worked) ? before.made : worked;
    known.set(site.segments, { key, made });
    return made;
  });
}

/** Asks only once of one and the same source: many facts are read by several others. */
function onceASource<T>(work: Fact<T>): Fact<T> {
  const asked = new WeakMap<Source, { readonly made: T }>();
  return (source) => {
    let known = asked.get(source);
    if (!known) asked.set(source, (known = { made: work(source) }));
    return known.made;
  };
}

/** What is said of a device's own parts, by their names. */
interface Own {
  readonly ports: ResolvedSite['ports'][string];
  readonly radios: SiteRadios[string];
}
const NOTHING = {};

/** What is seen of the one device that something is worked out for. */
export type SeenDevice<D extends keyof RosterDevice> = Pick<RosterDevice, D> & Own;

/** What something is worked out of for each device by itself. */
export interface ReadsDevice<
  S extends SiteField,
  E extends keyof EstatePart,
  A extends keyof RosterDevice,
  F extends Facts,
  D extends keyof RosterDevice,
  B,
> extends Reads<S, E, A, F> {
  readonly device: readonly D[];
  /** Which settings of its own are read. */
  readonly own?: keyof Own;
  /** Fields of what is handed over beside it. */
  readonly before?: readonly B[];
}

/**
 * Something of each device of a site, worked out anew only where something that is read is another than last time.
 * Opened for a site, it is asked device by device.
 */
export function each<
  T,
  D extends keyof RosterDevice,
  S extends SiteField = never,
  E extends keyof EstatePart = never,
  A extends keyof RosterDevice = never,
  F extends Facts = Readonly<Record<never, never>>,
  H extends object = Readonly<Record<never, never>>,
  B extends keyof H = never,
>(
  { device: ofDevice, own: ofOwn, before: ofBefore = [], ...ofSite }: ReadsDevice<S, E, A, F, D, B>,
  work: (seen: Seen<S, E, A, F>, device: SeenDevice<D>, before: Pick<H, B>) => T,
): Fact<(device: RosterDevice, before: H) => T> {
  const seenOf = fact(ofSite, (seen) => seen);
  const known = new WeakMap<RosterDevice, Known<T, H, B>>();
  /** Whether it is the same for all devices that the same is handed over of. */
  const alike = ofDevice.length === 0 && !ofOwn;
  return (source) => {
    const seen = seenOf(source);
    const shared: Known<T, H, B>[] = [];
    return (device, before) => {
      const own = ofOwn ? source.site[ofOwn]?.[device.id] : undefined;
      const last = known.get(device);
      // Nothing is made for a device that stays: most do, at each edit.
      if (last?.seen === seen && last.own === own && ofBefore.every((field) => last.before[field] === before[field]))
        return last.made;
      const handed = pick(before, ofBefore);
      const same = shared.find((one) => ofBefore.every((field) => one.before[field] === before[field]));
      if (same) {
        known.set(device, same);
        return same.made;
      }
      const made = work(
        seen,
        { ...pick(device, ofDevice), ports: NOTHING, radios: NOTHING, ...(ofOwn && own ? { [ofOwn]: own } : {}) },
        handed,
      );
      const now = { seen, own, before: handed, made };
      known.set(device, now);
      if (alike) shared.push(now);
      return made;
    };
  };
}

/** What was worked out of a device, with all that it was worked out of; the device itself never changes. */
interface Known<T, H, B extends keyof H> {
  readonly seen: unknown;
  readonly own: Own[keyof Own] | undefined;
  readonly before: Pick<H, B>;
  readonly made: T;
}

/** What is worked out of each device, for all of them in the roster's order. */
export function ofAll<T>(one: Fact<(device: RosterDevice, before: object) => T>): Fact<readonly T[]> {
  const known = new WeakMap<Anchor, readonly T[]>();
  return (source) => {
    const tell = one(source);
    const all = source.roster.map((device) => tell(device, {}));
    const last = known.get(source.site.segments);
    if (last && sameAll(last, all)) return last;
    known.set(source.site.segments, all);
    return all;
  };
}

/** Devices are read anew from where they are kept, equal and not the same: their addresses are told by their text. */
const valueOf = (value: unknown): unknown =>
  typeof value === 'object' && value !== null && 'gateway' in value ? JSON.stringify(value) : value;
