import { flaw, type Flaw } from '../base';
import { sheetFor } from '../hardware';
import { policyOf, ruleName } from '../rollout';
import {
  answerTo,
  boxesOf,
  examplePacket,
  packetWords,
  readEnds,
  readServices,
  resolveRules,
  VERSIONS,
  type EndNames,
  type Packet,
  type PolicyBook,
} from '../rules';
import { viewPolicy, type PolicyView } from './policy-view';
import { cellOf, reachPlaces, type ReachCell, type ReachInput } from './reach-view';

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
  /** The question as it was understood. */
  readonly understood: string;
  /** The packet that is followed, in words; null where there is none of the kind. */
  readonly packet: string | null;
  readonly there: readonly AskStep[];
  readonly back: readonly AskStep[];
}
/** Why a question could not be answered. */
export interface Unanswered {
  readonly flaws: readonly Flaw[];
}

/** The parts of a question. */
export interface Question {
  readonly from: string;
  readonly to: string;
  readonly services: string;
}

/**
 * Parts a question as people write it: “Can Crew reach 10.20.1.7 on TCP 443?”; also `Crew → 10.20.1.7 tcp 443`.
 * @returns null when it has not both ends.
 */
export function partQuestion(text: string): Question | null {
  const words = text.trim().replace(/\?+$/, '').trim();
  const match =
    /^(?:can\s+)?(.+?)\s+(?:reach(?:es)?|to)\s+(.+)$/i.exec(words) ?? /^(.+?)\s*(?:→|->)\s*(.+)$/.exec(words);
  if (!match) return null;
  const rest = match[2]!.trim();
  const on = /^(.+?)\s+(?:on|by|with)\s+(.+)$/i.exec(rest) ?? /^(.+?)\s+((?:tcp|udp|icmp)\b.*)$/i.exec(rest);
  return { from: match[1]!.trim(), to: (on?.[1] ?? rest).trim(), services: (on?.[2] ?? 'any').trim() };
}

/** Answers for all packets of a question, and follows one there and back. */
export function ask(
  input: ReachInput,
  asked: { readonly question: Question; readonly on: 'draft' | 'live'; readonly minute: number | null },
  book?: PolicyBook,
): Answer | Unanswered {
  const { site, roster } = input;
  const made = policyOf(site, roster);
  const policy = asked.on === 'live' ? input.live : made.policy;
  if (!policy) return { flaws: [flaw('ask.no-policy', 'The gateway runs no policy of ours yet; ask the draft.')] };
  const view = viewPolicy(site, made, policy, asked.on === 'live' ? `${site.id} live` : site.id, book);
  const known: EndNames = {
    segment: site.segments.map(({ name }) => name),
    ssid: site.ssids.map(({ name }) => name),
    set: [...made.names.sets.keys()],
    device: roster.map(({ name }) => name),
  };
  const { question } = asked;
  const [from, to] = [readEnds(question.from, known), readEnds(question.to, known)];
  const { services, bad } = readServices(question.services === '' ? 'any' : question.services);
  if (bad.length > 0)
    return { flaws: [flaw('ask.service', `“${bad[0]}” is no protocol and port. Write it like tcp 443.`, 'services')] };
  const { rules, flaws } = resolveRules([{ id: 'asked', verdict: 'allow', from, to, services }], made.names);
  const [rule] = rules;
  if (!rule) return { flaws: flaws.map(({ code, message, field }) => flaw(code, message, field)) };

  const passage = view.passage(asked.minute ?? view.open.moments[0]!);
  const cell = cellOf(passage, view, reachPlaces(site, view), (space) =>
    boxesOf(rule, space.version).reduce((sum, box) => space.unite(sum, space.box(box)), space.none),
  );
  const packet = followed(view, passage, rule);
  const what = packet && `${packetWords(packet)}`;
  return {
    ...cell,
    understood: `${question.from} → ${question.to}, ${question.services}`,
    packet: what,
    ...(packet ? thereAndBack(view, passage, packet, gatewayName(input)) : { there: [], back: [] }),
  };
}

const gatewayName = ({ roster, site }: ReachInput): string =>
  roster
    .filter((device) => sheetFor(device).kind === 'gateway')
    .map(({ name }) => name)
    .sort()[0] ?? `the gateway of ${site.name}`;

/** A packet of those asked about: one that is stopped, where some are, since that is what people ask about. */
function followed(
  view: PolicyView,
  passage: ReturnType<PolicyView['passage']>,
  rule: Parameters<typeof boxesOf>[0],
): Packet | null {
  let passing: Packet | null = null;
  for (const version of VERSIONS) {
    const space = passage.decider.space(version);
    const about = boxesOf(rule, version).reduce((sum, box) => space.unite(sum, space.box(box)), space.none);
    const stopped = examplePacket(space, space.subtract(about, passage.allowed(version)));
    if (stopped) return stopped;
    passing ??= examplePacket(space, about);
  }
  return passing;
}

function thereAndBack(
  view: PolicyView,
  passage: ReturnType<PolicyView['passage']>,
  packet: Packet,
  gateway: string,
): Pick<Answer, 'there' | 'back'> {
  const among = passage.among(packet);
  const back = answerTo(packet);
  if (among !== null) {
    const step = (title: string, detail: string): AskStep => ({
      at: 'within the segment',
      passed: !among,
      title,
      detail,
      ruleId: null,
    });
    const detail = among
      ? 'APs and switches keep the clients of this segment from each other.'
      : 'Both are in one segment: their frames do not pass the gateway, and no rule is asked.';
    const there = step(among ? 'Stopped' : 'Passed', detail);
    return { there: [there], back: among ? [] : [step('Passed', 'The answer goes the same way.')] };
  }
  const rule = passage.decider.decide(packet);
  const row = view.made.rows.find((each) => each.rule.id === rule?.id);
  const name = row
    ? ruleName(row.rule)
    : rule
      ? (view.open.policy.rules.find(({ id }) => id === rule.id)?.name ?? '')
      : '';
  const passed = (rule?.verdict ?? passage.otherwise) === 'allow';
  const there: AskStep = {
    at: gateway,
    passed,
    title: passed ? 'Passed' : 'Stopped',
    detail: rule ? `Decided by “${name}”.` : 'No rule says anything of it, so it passes.',
    ruleId: rule?.id ?? null,
  };
  if (!passed) return { there: [there], back: [] };
  const returned: AskStep = {
    at: gateway,
    passed: true,
    title: 'Passed',
    detail: `${packetWords(back)} answers what was let through: the gateway remembers that.`,
    ruleId: null,
  };
  return { there: [there], back: [returned] };
}
