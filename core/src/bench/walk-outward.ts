import { formatIp, isUnanswered, parseIp } from '../address';
import { courseRule, togetherOf, translator, usesOf, type CourseDocument, type GatewayDocument } from '../document';
import { Course, Together, USUAL_STEADINESS, type CourseUse, type UsedUplink } from '../paths';
import { packetRuleOf } from '../rules';
import type { UplinkFact, WalkFacts } from './probe';
import { sixWords } from './walk-six';
import { pass, stop, type Decider, type WalkStep } from './walk-step';

/** How somebody leaves: by which uplinks, and what that was decided by. */
interface Leaving {
  readonly used: readonly UsedUplink[];
  readonly why: string;
}

/**
 * From a gateway to the internet: by which uplinks, why, and what it would be without the first of them.
 * @param inside the address that leaves; something else where it is not known. @param vlan whose IPv6 is told as well.
 */
export function* outward(
  gateway: GatewayDocument,
  id: string,
  { uplinks }: Pick<WalkFacts, 'uplinks'>,
  inside: string,
  vlan?: number,
): Generator<WalkStep> {
  const { name } = gateway.device;
  const factOf = (port: string): UplinkFact | undefined => uplinks.get(`${id} ${port}`);
  const course = courseOf(gateway, inside);
  const { used, why } = leavingOf(gateway, course, factOf);
  const first = used[0]?.port ?? gateway.uplinks[0]?.port ?? 'wan';
  const out: Decider = { kind: 'uplink', id, name: `${name} ${first}`, port: first };
  if (used.length === 0) {
    const none = gateway.uplinks.every(({ port }) => !factOf(port)?.up);
    const reason = none ? `${name} reports no uplink that is up.` : why;
    yield stop('internet', 'No internet', reason, out);
    return;
  }
  const seen = new Map(used.map(({ port }) => [port, seenAs(gateway, port, inside)]));
  const plain = used.filter(({ port }) => seen.get(port) === 'itself' && isHidden(inside));
  if (plain.length > 0) {
    const some = used.length > plain.length ? ', which takes some of its sessions' : '';
    const detail = `${plain[0]!.port}${some} does not translate ${inside}; nobody outside can answer it.`;
    yield stop('internet', 'No internet', detail, out);
    return;
  }
  const sum = used.reduce((total, { weight }) => total + weight, 0);
  const ways = used.map(({ port, weight }) => {
    const share = used.length > 1 ? ` (${Math.round((100 * weight) / sum)} % of its sessions)` : '';
    const as = seen.get(port) ?? 'uplink';
    const own = as === 'uplink' ? (factOf(port)?.address ?? 'the provider’s address') : as;
    return `${port} as ${own}${share}`;
  });
  const four = `${inside} leaves ${ways.join(' or ')}${why}. ${without(gateway, course, factOf, used)}`.trim();
  const six = vlan === undefined ? '' : sixWords(gateway, vlan, factOf);
  yield pass('internet', 'The internet answers', `${four}${six}${routeWords(gateway)}`, out);
}

/** Routes that are told in words; more are counted. */
const MOST_TOLD_ROUTES = 3;

/** Where what is for some prefixes goes instead. */
function routeWords({ routes = [] }: GatewayDocument): string {
  if (routes.length === 0) return '';
  const told = routes
    .slice(0, MOST_TOLD_ROUTES)
    .map(({ name, prefix, to, by }) => `${prefix} ${to ? `to ${to}` : by ? `by ${by}` : 'nowhere'} (“${name}”)`);
  const more = routes.length - told.length;
  return ` Routes lead ${told.join(', ')}${more > 0 ? ` and ${more} more` : ''}.`;
}

/** As what an address is seen outside that leaves by an uplink, whereto ever: an address of a pool, or as in `SeenAs`. */
function seenAs({ uplinks, translations = [] }: GatewayDocument, port: string, inside: string): string {
  const source = parseIp(inside);
  const uplink = uplinks.find((each) => each.port === port);
  if (!uplink) return 'uplink';
  // Whose address is not known leaves as the uplink says of all.
  if (!source) return uplink.translate ? 'uplink' : 'itself';
  const outward = translations.filter(({ id, name, from, to }) =>
    isOutside(packetRuleOf({ id, name, verdict: 'allow', from, to, services: [{ protocol: 'any' }] }).destination),
  );
  const packet = { version: source.version, source: source.value, destination: SOMEBODY, protocol: 6, port: 443 };
  const as = translator(outward)(uplink, { ...packet, sourcePort: 49_152 });
  return typeof as === 'string' ? as : formatIp({ version: 4, value: as.address });
}
/** Somebody on the internet (203.0.113.80, RFC 5737). */
const SOMEBODY = parseIp('203.0.113.80')!.value;

/** Whether an address is one that nobody outside can answer. */
const isHidden = (address: string): boolean => {
  const ip = parseIp(address);
  return !ip || isUnanswered(ip);
};

/** What it would leave by were the first of its uplinks cut. */
function without(
  gateway: GatewayDocument,
  course: CourseDocument | null,
  factOf: (port: string) => UplinkFact | undefined,
  used: readonly UsedUplink[],
): string {
  if (gateway.uplinks.length < 2) return '';
  const { port: cut } = used[0]!;
  const then = leavingOf(gateway, course, (port) => (port === cut ? undefined : factOf(port))).used;
  const by = then.length === 0 ? 'nothing gets out' : `by ${then.map(({ port }) => port).join(' and ')}`;
  return `Were ${cut} cut: ${by}.`;
}

function leavingOf(
  { uplinks, leaving }: GatewayDocument,
  course: CourseDocument | null,
  factOf: (port: string) => UplinkFact | undefined,
): Leaving {
  const uses = usesOf(uplinks);
  const together = new Together(uses, togetherOf(leaving));
  for (const { port } of uplinks) {
    const fact = factOf(port);
    const up = fact?.up ?? false;
    together.link(port, up);
    if (!up || fact?.good === false) together.told(port, false, 0);
  }
  const usual = together.used(0).filter(({ port }) => factOf(port)?.up);
  if (!course) return { used: usual, why: usual.length > 1 ? ', by weight' : '' };
  const chosen = new Course(courseRule(course));
  for (const { port } of uplinks) {
    const measure = factOf(port)?.measure;
    // As it is now it has been for long enough.
    const { bad } = course.steady ?? USUAL_STEADINESS;
    for (let i = 0; measure !== undefined && i < bad; i++) chosen.measured(port, measure);
  }
  const weights = new Map(uses.map(({ port, weight }) => [port, weight]));
  const use = chosen.use({
    isUsable: (port) => together.isUsable(port, 0) && (factOf(port)?.up ?? false),
    weightOf: (port) => weights.get(port) || 1,
    usual,
  });
  return { used: use.used, why: courseWords(course, use) };
}

function courseWords({ name }: CourseDocument, { used, meets, usual }: CourseUse): string {
  if (used.length === 0) return `None of the uplinks of the course “${name}” is good, and it may leave by no other.`;
  if (usual) return `, as the rest does: none of the uplinks of the course “${name}” is good`;
  return `, by the course “${name}”${meets ? '' : ', though none of its uplinks is as it needs'}`;
}

/** The course that whatever leaves of an address takes, whereto ever; null: it leaves as usual, or that depends on more. */
function courseOf({ courses = [] }: GatewayDocument, inside: string): CourseDocument | null {
  const ip = parseIp(inside);
  if (!ip) return null;
  for (const course of courses) {
    if (course.dscp) continue;
    const { source, destination, services } = packetRuleOf({ ...course, verdict: 'allow' });
    const isFrom =
      source === null ||
      source.some((each) => each.version === ip.version && each.first <= ip.value && each.last >= ip.value);
    if (isFrom && isOutside(destination) && services.some(({ protocol, ports }) => protocol === 'any' && !ports))
      return course;
  }
  return null;
}

/** A course to at least half of all addresses of IPv4 is one to the internet. */
const HALF = 1n << 31n;
const isOutside = (ranges: ReturnType<typeof packetRuleOf>['destination']): boolean =>
  ranges === null ||
  ranges.reduce((sum, { version, first, last }) => (version === 4 ? sum + last - first + 1n : sum), 0n) >= HALF;
