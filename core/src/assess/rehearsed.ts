import {
  coursesOf,
  leavingSetting,
  uplinkSettings,
  weightOf,
  type RosterDevice,
  type SitePart,
  type UplinkSite,
} from '../intent';
import {
  rehearse,
  type CourseReport,
  type CourseRule,
  type GatewayPathsView,
  type Mishap,
  type MishapKind,
  type Rehearsed,
  type RehearsedGateway,
  type RehearsedUplink,
} from '../paths';

/** Milliseconds there and back that are taken where nothing was measured yet. */
const USUAL_DELAY = { dhcp: 15, static: 15, pppoe: 20, cellular: 60, satellite: 600 } as const;

/** A gateway as a rehearsal takes it: what is said of its uplinks, and what it measured. @param facts as it last told; null: it did not. */
export function rehearsedGateway(
  site: UplinkSite & Pick<SitePart, 'courses'>,
  device: RosterDevice,
  facts: Pick<GatewayPathsView, 'uplinks' | 'rate' | 'courses'> | null,
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
  const courses = coursesOf(site, device.id)
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
  };
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
  readonly what: Extract<MishapKind, 'cut' | 'silent'>;
  readonly mean: Rehearsed;
  readonly worst: Rehearsed;
}

/** When failures begin and how long they last, in seconds, and what is watched after them. */
export const FAILS_AT = 60;
const [LASTS, AFTER] = [1800, 60];

/** Every failure of a single uplink that leads anywhere, and of any two of them where that is asked for. */
export function failuresOf(gateway: RehearsedGateway, most: 1 | 2 = 1): Failure[] {
  const ports = gateway.uplinks.filter(({ linked }) => linked).map(({ port }) => port);
  const pairs = most === 2 ? ports.flatMap((a, i) => ports.slice(i + 1).map((b) => [a, b])) : [];
  return [...ports.map((port) => [port]), ...pairs].flatMap((some) =>
    (['cut', 'silent'] as const).map((what): Failure => {
      const mishaps = some.map((port): Mishap => ({
        what,
        from: FAILS_AT,
        to: FAILS_AT + LASTS,
        gatewayId: gateway.id,
        port,
      }));
      const play = (phase: 'mean' | 'worst'): Rehearsed => rehearse(gateway, mishaps, FAILS_AT + LASTS + AFTER, phase);
      return { ports: some, what, mean: play('mean'), worst: play('worst') };
    }),
  );
}
