import {
  coursesOf,
  leavingSetting,
  ownAddresses,
  pairHere,
  prioritiesOf,
  spokenFor,
  uplinkSettings,
  weightOf,
  type Pair,
  type RosterDevice,
  type SitePart,
  type UplinkSite,
} from '../intent';
import type { PairRole } from '../document';
import {
  rehearse,
  type CourseReport,
  type CourseRule,
  type GatewayPathsView,
  type Mishap,
  type MishapKind,
  type PairSelf,
  type Rehearsed,
  type RehearsedGateway,
  type RehearsedPair,
  type RehearsedUplink,
} from '../paths';

/** Milliseconds there and back that are taken where nothing was measured yet. */
const USUAL_DELAY = { dhcp: 15, static: 15, pppoe: 20, cellular: 60, satellite: 600 } as const;

/** What a gateway last told of how it leaves. */
export type PathFacts = Pick<GatewayPathsView, 'uplinks' | 'rate' | 'courses'>;

/** The other of a gateway’s pair, and how they take turns. */
export interface Mate {
  readonly device: RosterDevice;
  readonly role: PairRole;
  readonly pair: Pair;
  /** Own addresses of both. */
  readonly own: Readonly<Record<PairRole, string>>;
  readonly facts: PathFacts | null;
}

/** The other of a gateway’s pair; null: it is alone. @param factsOf what a gateway last told; null: it did not. */
export function mateOf(
  site: SitePart,
  roster: readonly RosterDevice[],
  { id }: Pick<RosterDevice, 'id'>,
  factsOf: (deviceId: string) => PathFacts | null = () => null,
): Mate | null {
  const mine = roster.filter(({ siteId }) => siteId === site.id);
  const here = pairHere(site.pair, mine);
  const management = site.segments.find((each) => each.id === site.managementId);
  const own = here && management ? ownAddresses(here, management, mine) : null;
  if (!here || !own || (here.first.id !== id && here.second.id !== id)) return null;
  const role = here.first.id === id ? 'second' : 'first';
  const device = mine.find((each) => each.id === here[role].id)!;
  return { device, role, pair: here.pair, own, facts: factsOf(device.id) };
}

/**
 * A gateway as a rehearsal takes it: what is said of its uplinks, and what it measured.
 * @param facts as it last told; null: it did not. @param mate the other of its pair; null: it is alone.
 */
export function rehearsedGateway(
  site: UplinkSite & Pick<SitePart, 'courses'>,
  device: RosterDevice,
  facts: PathFacts | null,
  mate: Mate | null = null,
): RehearsedGateway {
  const { by, stay, begins, back } = leavingSetting(site, device);
  const uplinks = uplinkSettings(site, device).map((setting): RehearsedUplink => {
    const { port, role, turn, watched, way, instead } = setting;
    const fact = facts?.uplinks.find((each) => each.port === port);
    return {
      port,
      weight: role === 'shares' ? weightOf(setting, by) : weightOf(setting, by) || 1,
      standby: role === 'standby' ? turn : null,
      ...(role === 'standby' && instead.length > 0 ? { instead } : {}),
      watch: watched,
      linked: fact ? fact.state !== 'unplugged' && fact.state !== 'none' : true,
      delay: fact?.delay ?? USUAL_DELAY[way],
      // What was lost lately may be an outage that is over: what gets lost is said by mishaps.
      loss: 0,
      ...(fact?.jitter ? { jitter: fact.jitter } : {}),
    };
  });
  const courses = spokenFor(mate?.pair, device.id)
    .flatMap((id) => coursesOf(site, id))
    .filter(({ off }) => !off)
    .map(({ id, ports, how, otherwise, needs, steady }): CourseRule => ({
      ...{ id, ports, how, otherwise },
      ...(needs ? { needs } : {}),
      ...(steady ? { steady } : {}),
    }));
  return {
    ...{ id: device.id, uplinks, rule: { begins, back }, stay },
    ...(facts?.rate === undefined ? {} : { rate: facts.rate }),
    ...(courses.length > 0 ? { courses } : {}),
    ...partsOf(courses, facts?.courses ?? []),
    ...(mate ? { pair: pairedWith(site, mate) } : {}),
  };
}

function pairedWith(site: UplinkSite & Pick<SitePart, 'courses'>, mate: Mate): RehearsedPair {
  const { device, role, pair, own, facts } = mate;
  const selfOf = (of: PairRole): PairSelf => ({
    ...prioritiesOf(pair, of),
    ...{ tracks: pair.tracks[of], any: pair.when === 'any', address: own[of].split('/')[0]! },
  });
  const mine = role === 'first' ? 'second' : 'first';
  const gateway = rehearsedGateway(site, device, facts);
  return { own: selfOf(mine), other: selfOf(role), gateway, first: mine === 'first', advert: pair.advert };
}

/** How much of what leaves courses have, of those that told it. */
function partsOf(rules: readonly CourseRule[], told: readonly CourseReport[]): Pick<RehearsedGateway, 'parts'> {
  const mine = told.flatMap(({ id, part }) =>
    part !== undefined && rules.some((rule) => rule.id === id) ? [[id, part] as const] : [],
  );
  return mine.length > 0 ? { parts: Object.fromEntries(mine) } : {};
}

/** One uplink, or several at once, fail: what becomes of it as usual, and at worst. */
export interface Failure {
  readonly ports: readonly string[];
  /** `off`: the gateway itself fails, which another stands in for. */
  readonly what: Extract<MishapKind, 'cut' | 'silent' | 'off'>;
  readonly mean: Rehearsed;
  readonly worst: Rehearsed;
}

/** When failures begin and how long they last, in seconds, and what is watched after them. */
export const FAILS_AT = 60;
const [LASTS, AFTER] = [1800, 60];

/**
 * Every failure of a single uplink that leads anywhere, and of any two of them where that is asked for; and of a gateway for which another stands in, the
 * failure of itself.
 */
export function failuresOf(gateway: RehearsedGateway, most: 1 | 2 = 1): Failure[] {
  const ports = gateway.uplinks.filter(({ linked }) => linked).map(({ port }) => port);
  const two = most === 2 ? ports.flatMap((a, i) => ports.slice(i + 1).map((b) => [a, b])) : [];
  const failure = (what: Failure['what'], some: readonly string[]): Failure => {
    const mishaps = (what === 'off' ? [''] : some).map((port): Mishap => {
      return { what, from: FAILS_AT, to: FAILS_AT + LASTS, gatewayId: gateway.id, port };
    });
    const play = (phase: 'mean' | 'worst'): Rehearsed => rehearse(gateway, mishaps, FAILS_AT + LASTS + AFTER, phase);
    return { ports: some, what, mean: play('mean'), worst: play('worst') };
  };
  return [
    ...[...ports.map((port) => [port]), ...two].flatMap((some) =>
      (['cut', 'silent'] as const).map((what) => failure(what, some)),
    ),
    ...(gateway.pair ? [failure('off', [])] : []),
  ];
}
