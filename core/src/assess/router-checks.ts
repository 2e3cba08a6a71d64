import { sheetFor } from '../hardware';
import { isOfOthers, rangesOfSegment, segmentsOfRouter, type ResolvedSite, type SiteRouter } from '../intent';
import { addressSpans, examplePacket, packetWords, VERSIONS, type Diagram, type PacketSpace } from '../rules';
import { ruleName } from '../rollout';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend, Severity } from './finding';
import { isGivenAway, leaveOut } from './given-away';
import type { PolicyView } from './policy-view';

function found(
  { id: siteId }: Pick<ResolvedSite, 'id'>,
  { id }: Pick<SiteRouter, 'id'>,
  code: string,
  severity: Severity,
  { message, reason, mend = null, at = '' }: { message: string; reason: string; mend?: Mend | null; at?: string },
): Finding {
  const place = { siteId, kind: 'router' as const, id };
  return {
    key: `paths.${code} ${id}${at === '' ? '' : ` ${at}`}`,
    code: `paths.${code}`,
    severity,
    message,
    reason,
    place,
    mend,
  };
}

/** Faults of routers beside the gateway: what they cannot do, what nobody knows of them, and what they would not meet. */
export const routerFindings: Check = (context) =>
  (context.site.routers ?? []).flatMap((router) => [
    ...idle(context, router),
    ...meetsNobody(context, router),
    ...(isOfOthers(router) ? ofOthers(context, router) : ofOurs(context, router)),
  ]);

function idle({ site }: CheckContext, router: SiteRouter): Finding[] {
  if (segmentsOfRouter(site, router.id).length > 0 || (router.behind ?? []).length > 0) return [];
  const reason = 'No segment says that it is routed there, and no network is said to be behind it.';
  return [found(site, router, 'router-idle', 'info', { message: `“${router.name}” routes nothing`, reason })];
}

/** Where it meets the gateway: nobody else may be given its address, and somebody has to be there to meet. */
function meetsNobody({ site, documents }: CheckContext, router: SiteRouter): Finding[] {
  const { meets, name } = router;
  const segment = meets && site.segments.find(({ id }) => id === meets.segmentId);
  if (!meets) return [];
  if (!segment)
    return [
      found(site, router, 'router-apart', 'error', {
        message: `“${name}” meets the gateway nowhere`,
        reason: 'The segment in which they meet is switched off: nothing gets to what it routes.',
      }),
    ];
  const gateway = [...documents.values()].some(
    (each) => each.kind === 'gateway' && each.interfaces.some(({ vlan }) => vlan === segment.vlan),
  );
  const none: Finding[] = gateway
    ? []
    : [
        found(site, router, 'router-alone', 'error', {
          message: `“${name}” meets no gateway in ${segment.name}`,
          reason: `${site.name} has no gateway of ours that routes ${segment.name}. Claim one, or say that it has a way out of its own.`,
        }),
      ];
  if (segmentsOfRouter(site, router.id).length > 0 && (segment.id === site.managementId || segment.addresses !== null))
    none.push(
      found(site, router, 'router-among', 'info', {
        message: `“${name}” meets the gateway among others, in ${segment.name}`,
        reason: `What its segments say to anybody there never passes the gateway, and the answer, which does, is dropped. Have them meet in a segment of their own.`,
      }),
    );
  if (!isGivenAway(segment, meets.address)) return none;
  return [
    ...none,
    found(site, router, 'router-given', 'error', {
      message: `The address of “${name}” is given to others`,
      reason: `${segment.name} gives ${meets.address} to whoever asks for one; who has it then is met in its place.`,
      mend: leaveOut(site.id, segment, meets.address),
    }),
  ];
}

/** A switch of ours: how much it routes. */
function ofOurs({ site, devices }: CheckContext, router: SiteRouter): Finding[] {
  const device = devices.get(router.deviceId!);
  if (!device)
    return [
      found(site, router, 'router-gone', 'error', {
        message: `The switch of “${router.name}” is no longer at ${site.name}`,
        reason: 'Nobody answers at the gateway addresses of what it routes. Say who does that instead.',
      }),
    ];
  const routed = segmentsOfRouter(site, router.id).length;
  const { routes = 0, title } = sheetFor(device);
  if (routed <= routes) return [];
  return [
    found(site, router, 'router-full', 'error', {
      message: `${device.name} cannot route ${routed} segments`,
      reason: routes === 0 ? `${title} does not route.` : `${title} routes ${routes} at most.`,
    }),
  ];
}

/** A box of others: where it is plugged in. */
function ofOthers(context: CheckContext, router: SiteRouter): Finding[] {
  const { site, documents, links } = context;
  const { at, name } = router;
  if (!at)
    return [
      found(site, router, 'router-where', 'info', {
        message: `Where “${name}” is plugged in is not known`,
        reason: 'Whether its segments are carried to it cannot be checked. Say at which port of ours it is.',
      }),
    ];
  const port = documents.get(at.deviceId)?.ports.find((each) => each.name === at.port);
  if (!port)
    return [
      found(site, router, 'router-port', 'error', {
        message: `“${name}” is said to be plugged in where there is no port`,
        reason: `Port ${at.port} is at no device of ${site.name}. Say where it is.`,
      }),
    ];
  const far = links
    .flatMap(({ a, b }) => [[a, b] as const, [b, a] as const])
    .find(([near]) => near.deviceId === at.deviceId && near.port === at.port);
  if (!far) return [];
  return [
    found(site, router, 'router-port', 'error', {
      message: `“${name}” is not where it is said to be`,
      reason: `${nameIn(context, far[1].deviceId)} is plugged in at port ${at.port} of ${nameIn(context, at.deviceId)}. Say where the box is.`,
    }),
  ];
}

/** Pairs of a router’s segments of which rules are looked for that it does not keep. */
const MOST_PAIRS = 400;

/** Rules that would stop something, and that never see it: a router beside the gateway hands it on by itself. */
export function besideFindings(site: ResolvedSite, view: PolicyView): Finding[] {
  const passage = view.passage(view.open.moments[0]!);
  if (!passage.quarters) return [];
  return (site.routers ?? []).flatMap((router) => {
    const seen = new Map<string, { readonly between: string; readonly packet: string }>();
    const routed = segmentsOfRouter(site, router.id);
    const pairs = routed.flatMap((from) => routed.flatMap((to) => (from === to ? [] : [[from, to] as const])));
    for (const [from, to] of pairs.slice(0, MOST_PAIRS))
      for (const version of VERSIONS) {
        const space = passage.decider.space(version);
        const about = between(space, rangesOfSegment(from), rangesOfSegment(to));
        const stopped = passage.decider.allowed(version, passage.otherwise);
        const past = space.subtract(space.intersect(about, passage.allowed(version, { who: 'some' })), stopped);
        const packet = examplePacket(space, past);
        const rule = packet && passage.decider.decide(packet);
        if (packet && rule && !seen.has(rule.id))
          seen.set(rule.id, { between: `${from.name} and ${to.name}`, packet: packetWords(packet) });
      }
    return [...seen].map(([id, { between: which, packet }]) => {
      const said = view.made.rows.find(({ rule }) => rule.id === id)?.rule;
      const name = said ? ruleName(said) : id;
      return found(site, router, 'router-past', 'warning', {
        message: `“${name}” is not kept between ${which}`,
        reason: `“${router.name}” routes both: ${packet} passes there, and never comes to the gateway, which would stop it.`,
        at: id,
      });
    });
  });
}

function between(
  space: PacketSpace,
  from: ReturnType<typeof rangesOfSegment>,
  to: ReturnType<typeof rangesOfSegment>,
): Diagram {
  const [a, b] = [from, to].map((ranges) => addressSpans(space.version, ranges));
  return a && b && a.length > 0 && b.length > 0 ? space.box([a, b, null, null]) : space.none;
}
