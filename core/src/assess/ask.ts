import { subtractRanges, type IpRange } from '../address';
import { flaw, type Flaw } from '../base';
import { sheetFor } from '../hardware';
import { isOfOthers } from '../intent';
import { enforcedAt, policyOf } from '../rollout';
import {
  answerTo,
  examplePacket,
  matchedIn,
  packetWords,
  readEnds,
  readServices,
  resolveRules,
  VERSIONS,
  writeEnds,
  writeServices,
  type Attached,
  type Packet,
  type PacketRule,
  type Passage,
  type PassageStop,
  type RuleEnd,
  type RuleNames,
  type PolicyBook,
} from '../rules';
import { viewPolicy, type PolicyView } from './policy-view';
import { endNamesAt, type Question } from './question';
import { cellOf, nameIn, matrixEnds, type ReachCell, type ReachInput } from './reach-view';
import { pactWords } from './quarters';
import { LOST_TITLES, SiteNetwork, type Lost } from './site-network';
import { routerOf, type ToldWay } from './told-route';

/** One place that a packet meets, and what becomes of it there. */
export interface AskStep {
  readonly at: string;
  readonly passed: boolean;
  readonly title: string;
  readonly detail: string;
  readonly ruleId: string | null;
}
/** The answer to a question about all packets of a kind, with one of them followed there and back. */
export interface Answer extends ReachCell {
  /** The question as it was understood, in full. */
  readonly understood: string;
  /** Names of the DNS in it, and what they stood for when they were looked up. */
  readonly lookedUp?: readonly { readonly name: string; readonly addresses: readonly string[] }[];
  /** The packet that is followed, in words; null where there is none of the kind. */
  readonly packet: string | null;
  readonly there: readonly AskStep[];
  readonly back: readonly AskStep[];
}
/** The same with what can be asked on with: the packet that is followed, and whether it is led into a tunnel to another site. */
export interface Asked extends Answer {
  readonly follows?: Packet;
  readonly led?: true;
}
/** Why a question could not be answered. */
export interface Unanswered {
  readonly flaws: readonly Flaw[];
}

/** Answers for all packets of a question, and follows one there and back. */
export function ask(
  input: ReachInput,
  asked: {
    readonly question: Question;
    readonly on: 'draft' | 'live';
    readonly minute: number | null;
    /** Names of the DNS that stand for addresses. */
    readonly lookedUp?: readonly { readonly name: string; readonly addresses: readonly string[] }[];
    /** How the ends are attached, where that is known otherwise than by their names. */
    readonly attached?: Attached;
    /** The packet that is followed; absent: one that is stopped, where some are. */
    readonly follow?: Packet;
  },
  book?: PolicyBook,
): Asked | Unanswered {
  const { roster } = input;
  const site = asked.on === 'live' ? (input.liveSite ?? input.site) : input.site;
  const made = policyOf(site, roster);
  const policy = asked.on === 'live' ? input.live : enforcedAt(site, roster);
  if (!policy) return { flaws: [flaw('ask.no-policy', 'The gateway runs no policy of ours yet; ask the draft.')] };
  const view = viewPolicy(site, made, policy, asked.on === 'live' ? `${site.id} live` : site.id, book);
  const known = endNamesAt(site, roster);
  const { question, lookedUp = [] } = asked;
  const [said, saidTo] = [readEnds(question.from, known), readEnds(question.to, known)];
  const [from, to] = [said, saidTo].map((ends) => ends.flatMap((end) => addressesOf(end, lookedUp))) as [
    RuleEnd[],
    RuleEnd[],
  ];
  const { services, bad } = readServices(question.services === '' ? 'any' : question.services);
  if (bad.length > 0)
    return {
      flaws: [
        flaw(
          'ask.service',
          `“${bad[0]}” is no service that we know. Write it like tcp 443, 9100, ssh or ping.`,
          'services',
        ),
      ],
    };
  const { rules, flaws } = resolveRules([{ id: 'asked', verdict: 'allow', from, to, services }], made.names);
  const [found] = rules;
  if (!found) return { flaws: flaws.map(({ code, message, field }) => flaw(code, message, field)) };

  const passage = view.passage(asked.minute ?? view.open.moments[0]!);
  const places = matrixEnds(site, view);
  const attached = { ...attachmentsOf(from, to, places), ...asked.attached };
  const rule = ofClients(found, attached, made.names);
  const cell = cellOf(passage, view, places, (space) => matchedIn(space, rule), attached);
  const packet = asked.follow ?? followed(passage, rule, attached);
  const what = packet && `${packetWords(packet)}`;
  const router = routerOf(site, roster);
  const network =
    router && new SiteNetwork({ site, roster, router, ...(input.uplinks ? { uplinks: input.uplinks } : {}) });
  const target = packet && { version: packet.version, first: packet.destination, last: packet.destination };
  const way = (target && network?.wayTo(target)) ?? null;
  const lost = (target && network?.lost([target])[0]) ?? null;
  const ways: Ways = { gateway: gatewayName(input), attached, way, lost };
  const isLed = packet && way?.kind === 'overlay' && way.line.peer !== null;
  const followedTo = packet ? thereAndBack(view, passage, packet, ways) : { there: [], back: [] };
  const isLost =
    followedTo.there.some((step) => step.isLost) && network !== null && losesAll(network, rule.destination);
  return {
    ...cell,
    ...(isLost ? { reach: 'none' as const, allowed: [] } : {}),
    understood: `Can ${writeEnds(said)} reach ${writeEnds(saidTo)} on ${writeServices(services)}?`,
    ...(lookedUp.length > 0 ? { lookedUp } : {}),
    packet: what,
    there: followedTo.there.map(({ isLost: _, ...step }) => step),
    back: followedTo.back,
    ...(packet ? { follows: packet } : {}),
    ...(isLed ? { led: true as const } : {}),
  };
}

/** Whether all that is asked about is for somewhere that nobody gets it at: rules let it through, and the gateway loses it. */
function losesAll(network: SiteNetwork, destination: readonly IpRange[] | null): boolean {
  if (destination === null || destination.length === 0) return false;
  const lost = network.lost(destination).flatMap(({ ranges }) => ranges);
  return destination.every((range) => subtractRanges(range, lost).length === 0);
}

/** An end, or the addresses that it stands for where it is a name of the DNS that is known. */
function addressesOf(end: RuleEnd, lookedUp: readonly { name: string; addresses: readonly string[] }[]): RuleEnd[] {
  const found = end.kind === 'addresses' ? lookedUp.find(({ name }) => name === end.text) : undefined;
  return found && found.addresses.length > 0 ? found.addresses.map((text) => ({ kind: 'addresses', text })) : [end];
}

/** A rule without the gateway's own addresses at ends that are attached somewhere: nobody who is has them. */
function ofClients(rule: PacketRule, attached: Attached, { gateway = [] }: RuleNames): PacketRule {
  const clients = (ranges: readonly IpRange[] | null): readonly IpRange[] | null =>
    ranges && ranges.flatMap((range) => subtractRanges(range, gateway));
  return {
    ...rule,
    ...(attached.from === undefined ? {} : { source: clients(rule.source) }),
    ...(attached.to === undefined ? {} : { destination: clients(rule.destination) }),
  };
}

/** How the ends of a question are attached, where each is one SSID or one class. */
function attachmentsOf(
  from: readonly RuleEnd[],
  to: readonly RuleEnd[],
  places: ReturnType<typeof matrixEnds>,
): Attached {
  const of = ([end, ...more]: readonly RuleEnd[]): string | undefined =>
    (end?.kind === 'ssid' || end?.kind === 'class') && more.length === 0
      ? places.find(({ kind, name }) => kind === end.kind && name === end.name)?.attached
      : undefined;
  const [source, destination] = [of(from), of(to)];
  return {
    ...(source === undefined ? {} : { from: source }),
    ...(destination === undefined ? {} : { to: destination }),
  };
}

const gatewayName = ({ roster, site }: ReachInput): string =>
  roster
    .filter((device) => sheetFor(device).kind === 'gateway')
    .map(({ name }) => name)
    .sort()[0] ?? `the gateway of ${site.name}`;

/** A packet of those asked about: one that is stopped, where some are, since that is what people ask about. */
function followed(passage: Passage, rule: PacketRule, attached: Attached): Packet | null {
  let passing: Packet | null = null;
  for (const version of VERSIONS) {
    const space = passage.decider.space(version);
    const about = matchedIn(space, rule);
    const allowed = passage.allowed(version, { who: 'some', ...attached });
    const stopped = examplePacket(space, space.subtract(about, allowed));
    if (stopped) return stopped;
    passing ??= examplePacket(space, about);
  }
  return passing;
}

/** How a packet is attached, which route it goes by, and how it is lost on that, if it is. */
interface Ways {
  readonly gateway: string;
  readonly attached: Attached;
  readonly way: ToldWay | null;
  readonly lost: Lost | null;
}
type FollowedStep = AskStep & { readonly isLost?: true };

/** Where the gateway sends what it lets pass; nothing, where it is on a link or goes as the rest does. */
function waySteps({ way, lost, gateway: at }: Ways): FollowedStep[] {
  if (lost) return [{ at, passed: false, title: LOST_TITLES[lost.kind], detail: lost.why, ruleId: null, isLost: true }];
  return way ? [wayStep(way, at)] : [];
}

function wayStep(way: ToldWay, at: string): AskStep {
  const led = { at, passed: true, title: 'Led on', ruleId: null };
  if (way.kind === 'overlay')
    return { ...led, detail: `${way.line.prefix} is of joined sites: it goes into the tunnel to ${way.line.peer}.` };
  if (way.kind === 'pact')
    return { ...led, detail: `${way.line.prefix} is behind “${way.line.name}”: it goes into that tunnel.` };
  const { name, prefix, to, by } = way.route;
  const leads = to === undefined ? `out by ${by}` : `to ${to}, which hands it on`;
  return { ...led, detail: `Its route “${name}” leads ${prefix} ${leads}.` };
}

/** One packet followed to its end, and its answer back. Lists at switches and APs judge the answer by itself. */
function thereAndBack(
  view: PolicyView,
  passage: Passage,
  packet: Packet,
  ways: Ways,
): { readonly there: readonly FollowedStep[]; readonly back: readonly AskStep[] } {
  const { gateway, attached } = ways;
  const there = passage.stops(packet, attached);
  const steps = there.flatMap((stop): FollowedStep[] => [
    stepOf(view, stop, gateway),
    ...(stop.at === 'gateway' && stop.passed ? waySteps(ways) : []),
  ]);
  if (steps.some(({ passed }) => !passed)) return { there: steps, back: [] };
  const back = answerTo(packet);
  if (!back) return { there: steps, back: [] };
  const { from, to } = attached;
  const returning = passage
    .returns(packet, { ...(to === undefined ? {} : { from: to }), ...(from === undefined ? {} : { to: from }) })
    .map((stop): AskStep => {
      if (stop.at === 'within') return { ...stepOf(view, stop, gateway), detail: 'The answer goes the same way.' };
      if (stop.at === 'router') return { ...stepOf(view, stop, gateway), detail: 'The answer comes back by it.' };
      if (stop.at !== 'gateway') return stepOf(view, stop, gateway);
      const detail = `${packetWords(back)} answers what was let through: the gateway remembers that.`;
      return { at: gateway, passed: true, title: 'Passed', detail, ruleId: null };
    });
  return { there: steps, back: returning };
}

function stepOf(view: PolicyView, { at, name, rule, passed, why }: PassageStop, gateway: string): AskStep {
  const title = passed ? 'Passed' : 'Stopped';
  if (at === 'within')
    return {
      at: 'within the segment',
      passed,
      title,
      detail: passed
        ? 'Both are in one segment: their frames do not pass the gateway, and no rule of its is asked.'
        : 'APs and switches keep the clients of this segment from each other.',
      ruleId: null,
    };
  if (at === 'nowhere')
    return { at: name, passed, title, detail: `“${name}” is routed by nobody: nothing gets in or out.`, ruleId: null };
  if (at === 'router')
    return { at: name, passed, title, detail: why ?? routerDetail(view, name, rule, passed), ruleId: null };
  const places = { gateway, switches: 'the switches', aps: `the APs, for ${name}` };
  return {
    at: places[at],
    passed,
    title,
    detail: rule ? `Decided by “${nameIn(view, rule.id)}”.` : 'No rule says anything of it, so it passes.',
    ruleId: rule?.id ?? null,
  };
}

/** What a router beside the gateway does: a switch of ours what it is told, a box of others what is assumed of it. */
function routerDetail({ routers }: PolicyView, name: string, rule: PacketRule | null, passed: boolean): string {
  const agreed = pactWords(rule);
  if (agreed) return agreed;
  const router = routers.find((each) => each.name === name);
  if (router && !isOfOthers(router))
    return 'A switch of ours routes it, and keeps what it lets pass by its list alone.';
  if (rule) return `Assumed: ${passed ? 'it lets this pass' : 'it stops this'}, by what is said of it.`;
  return 'Assumed: it lets pass whatever nothing is said of.';
}
