import { Joi } from '../schema';
import { parseIp, parsePrefix, rangeOf } from '../address';
import { Decider } from './decider';
import type { Packet, PacketRule, Verdict } from './packet-rule';
import { answerTo } from './flow';
import { resolveRules, type RuleFlaw, type RuleNames } from './resolve-rules';
import type { NamedSet, RuleService } from './rule';
import { readEnd } from './rule-text';
import { PROTOCOL } from './service';

/** A rulebook with its segments and packets to be judged, as a file. Described in docs/rules-file.md. */
export interface RulesFile {
  readonly format: 'iron-lattice.rules/1';
  readonly segments?: readonly { readonly name: string; readonly prefixes: readonly string[] }[];
  readonly sets?: readonly NamedSet[];
  /** Whether answers follow what was let through. */
  readonly state?: 'stateful' | 'stateless';
  /** What happens to packets that no rule matches. */
  readonly otherwise?: Verdict;
  readonly rules: readonly {
    readonly id?: string;
    readonly verdict: Verdict;
    readonly from?: string | readonly string[];
    readonly to?: string | readonly string[];
    readonly services?: readonly RuleService[];
    readonly off?: boolean;
  }[];
  readonly packets?: readonly FilePacket[];
}
/** A packet of a file; one that answers another takes its ends from it. */
export interface FilePacket {
  readonly from?: string;
  readonly to?: string;
  readonly protocol?: 'tcp' | 'udp' | 'icmp' | number;
  readonly port?: number;
  readonly sourcePort?: number;
  readonly type?: number;
  readonly code?: number;
  /** Number of the packet it answers, from 0. */
  readonly answers?: number;
}

/** A rulebook that can be asked. */
export interface ReadRules {
  readonly rules: readonly PacketRule[];
  readonly otherwise: Verdict;
  readonly stateful: boolean;
  readonly packets: readonly { readonly packet: Packet; readonly answers: number | null }[];
}
/** What becomes of one packet of a file. */
export interface FileVerdict {
  readonly verdict: Verdict;
  /** Id of the rule that decides; null where none matches or where the packet answers one that was let through. */
  readonly rule: string | null;
  readonly why: 'rule' | 'answer' | 'otherwise';
}

const port = Joi.number().integer().min(0).max(65_535);
const octet = Joi.number().integer().min(0).max(255);
const texts = Joi.array().items(Joi.string().max(200));
const end = Joi.alternatives(Joi.string().max(200), texts.min(1));
const protocols = Joi.alternatives(Joi.string().valid('tcp', 'udp', 'icmp'), octet);
const schema = Joi.object({
  format: Joi.string().valid('iron-lattice.rules/1').required(),
  segments: Joi.array().items(Joi.object({ name: Joi.string().required(), prefixes: texts.required() })),
  sets: Joi.array().items(Joi.object({ name: Joi.string().required(), addresses: texts, ports: texts, sets: texts })),
  state: Joi.string().valid('stateful', 'stateless'),
  otherwise: Joi.string().valid('allow', 'deny'),
  rules: Joi.array()
    .items(
      Joi.object({
        id: Joi.string().max(100),
        verdict: Joi.string().valid('allow', 'deny').required(),
        from: end,
        to: end,
        services: Joi.array().items(
          Joi.object({
            protocol: Joi.alternatives('any', protocols).required(),
            ports: texts,
            sourcePorts: texts,
            type: octet,
            code: octet,
          }),
        ),
        off: Joi.boolean(),
      }),
    )
    .required(),
  packets: Joi.array().items(
    Joi.object({
      from: Joi.string(),
      to: Joi.string(),
      protocol: protocols,
      port,
      sourcePort: port,
      type: octet,
      code: octet,
      answers: Joi.number().integer().min(0),
    })
      .xor('answers', 'from')
      .and('from', 'to', 'protocol')
      .without('answers', ['port', 'sourcePort', 'type', 'code']),
  ),
});

/** Several things are wrong with a rulebook; each says where. */
export class RulesFileError extends Error {
  constructor(readonly flaws: readonly RuleFlaw[]) {
    super(flaws.map(({ of, message }) => `${of}: ${message}`).join('\n'));
  }
}

/** Reads a rulebook. @throws Error saying where and why it is none, or {@link RulesFileError} with every flaw. */
export function readRulesFile(value: unknown): ReadRules {
  const { error } = schema.validate(value);
  if (error) throw new Error(`not a rules file: ${error.message}`);
  const file = value as RulesFile;
  for (const [what, list] of [
    ['segment', file.segments],
    ['set', file.sets],
  ] as const) {
    const twice = list?.find(({ name }, i) => list.findIndex((each) => each.name === name) < i);
    if (twice) throw new Error(`there are two ${what}s ${twice.name}`);
  }
  const segments = new Map(
    (file.segments ?? []).map(({ name, prefixes }) => {
      const ranges = prefixes.map((text) => {
        const prefix = parsePrefix(text);
        if (!prefix) throw new Error(`segment ${name}: ${text} is no prefix`);
        return rangeOf(prefix);
      });
      return [name, ranges] as const;
    }),
  );
  const names: RuleNames = { segments, sets: new Map((file.sets ?? []).map((set) => [set.name, set])) };
  const list = (ends: string | readonly string[] | undefined) =>
    (typeof ends === 'string' ? [ends] : (ends ?? ['any'])).map(readEnd);
  const { rules, flaws } = resolveRules(
    file.rules.map((rule, i) => ({
      id: rule.id ?? `rule ${i + 1}`,
      verdict: rule.verdict,
      from: list(rule.from),
      to: list(rule.to),
      services: rule.services ?? [{ protocol: 'any' }],
      ...(rule.off ? { off: true } : {}),
    })),
    names,
  );
  if (flaws.length > 0) throw new RulesFileError(flaws);
  const packets: { packet: Packet; answers: number | null }[] = [];
  for (const [i, packet] of (file.packets ?? []).entries()) {
    const asked = packet.answers === undefined ? undefined : packets[packet.answers];
    if (packet.answers !== undefined && !asked)
      throw new Error(`packet ${i}: answers a packet that does not stand before it`);
    const answer = asked && answerTo(asked.packet);
    if (answer === null) throw new Error(`packet ${i}: packet ${packet.answers} asks for no answer`);
    packets.push(
      answer ? { packet: answer, answers: packet.answers! } : { packet: packetOf(packet, i), answers: null },
    );
  }
  return { rules, otherwise: file.otherwise ?? 'deny', stateful: file.state !== 'stateless', packets };
}

function packetOf({ from, to, protocol, port: wanted, sourcePort, type, code }: FilePacket, i: number): Packet {
  const [source, destination] = [parseIp(from!), parseIp(to!)];
  if (!source || !destination) throw new Error(`packet ${i}: ${source ? to : from} is no address`);
  if (source.version !== destination.version) throw new Error(`packet ${i}: its ends are of two IP versions`);
  const { version } = source;
  const number =
    typeof protocol === 'number'
      ? protocol
      : protocol === 'icmp' && version === 6
        ? PROTOCOL.icmp6
        : PROTOCOL[protocol!];
  const isIcmp = number === (version === 6 ? PROTOCOL.icmp6 : PROTOCOL.icmp);
  const hasPorts = number === PROTOCOL.tcp || number === PROTOCOL.udp;
  if (!hasPorts && (wanted !== undefined || sourcePort !== undefined))
    throw new Error(`packet ${i}: only TCP and UDP have ports`);
  if (!isIcmp && (type !== undefined || code !== undefined))
    throw new Error(`packet ${i}: only ICMP has a type and a code`);
  return {
    version,
    source: source.value,
    destination: destination.value,
    protocol: number,
    ...(hasPorts ? { port: wanted ?? 0, sourcePort: sourcePort ?? 0 } : {}),
    ...(isIcmp ? { type: type ?? (version === 6 ? 128 : 8), code: code ?? 0 } : {}),
  };
}

/** Judges every packet of a file, in order. */
export function judge({ rules, otherwise, stateful, packets }: ReadRules): FileVerdict[] {
  const decider = new Decider(rules);
  const verdicts: FileVerdict[] = [];
  for (const { packet, answers } of packets) {
    if (stateful && answers !== null && verdicts[answers]!.verdict === 'allow') {
      verdicts.push({ verdict: 'allow', rule: null, why: 'answer' });
      continue;
    }
    const rule = decider.decide(packet);
    verdicts.push({
      verdict: rule?.verdict ?? otherwise,
      rule: rule?.id ?? null,
      why: rule ? 'rule' : 'otherwise',
    });
  }
  return verdicts;
}
