import { parseIp } from '@iron-lattice/core/address';
import { GRE, policiesOf, VRRP, VRRP_GROUP } from '@iron-lattice/core/document';
import type { HitReport, NoteReport } from '@iron-lattice/core/line';
import {
  answerTo,
  appliesAtMoment,
  momentAt,
  packetWords,
  packetRuleOf,
  Decider,
  type Packet,
  type PolicyDocument,
  type PolicyRule,
} from '@iron-lattice/core/rules';
import type { Box } from './box';

/** Where TCP is open for devices at the controller. */
const CONTROLLER_PORT = 443;

/** Notes a box keeps. */
const NOTES_KEPT = 40;

/** What became of a packet at a device. */
export interface Passing {
  readonly passed: boolean;
  /** The rule that decided; null where none said anything. */
  readonly rule: PolicyRule | null;
}

interface Running {
  readonly decider: Decider;
  /** Which rules are in force. */
  readonly key: string;
}

/** What devices let pass by the policies and lists they run, and what they count. Gateways remember what they let through. */
export class Policing {
  private readonly running = new WeakMap<PolicyDocument, Running>();
  /** Packets by rule, of each box. */
  private readonly counts = new WeakMap<Box, Map<string, number>>();
  private readonly notes = new WeakMap<Box, readonly NoteReport[]>();

  /** Decides a packet that begins something at a gateway, and counts it. */
  pass(box: Box, packet: Packet, now = Date.now()): Passing {
    const { document } = box;
    return this.judge(box, document.kind === 'gateway' ? document.policy : undefined, packet, now);
  }

  /** Decides any packet that passes a switch, and counts it. */
  passSwitch(box: Box, packet: Packet, now = Date.now()): Passing {
    const { document } = box;
    return this.judge(box, document.kind === 'switch' ? document.list : undefined, packet, now);
  }

  /** Decides any packet from or to a client of an SSID, and counts it. @param classId what the client was given. */
  passAir(
    box: Box,
    { ssid, classId }: { readonly ssid: string; readonly classId?: string | undefined },
    side: 'from' | 'to',
    packet: Packet,
    now = Date.now(),
  ): Passing {
    const { document } = box;
    const sent = document.kind === 'ap' ? document.ssids.find(({ name }) => name === ssid) : undefined;
    const lists = classId === undefined ? sent?.lists : sent?.classLists?.find(({ id }) => id === classId);
    return this.judge(box, lists?.[side], packet, now);
  }

  private judge(box: Box, policy: PolicyDocument | undefined, packet: Packet, now: number): Passing {
    const passing = this.decide(box, policy, packet, now);
    const { rule } = passing;
    if (rule) {
      const counts = this.counts.get(box) ?? new Map<string, number>();
      this.counts.set(box, counts);
      counts.set(rule.id, (counts.get(rule.id) ?? 0) + 1);
      if (rule.log) this.note(box, rule, packet, passing.passed, now);
    }
    return passing;
  }

  /** Whether a device at an address gets its line to the controller through its gateway, and the switches on its way. */
  letsOut(box: Box, address: string | null, controller: string, switches: readonly Box[]): boolean {
    const source = address === null ? null : parseIp(address);
    const destination = parseIp(controller);
    if (!source || !destination || source.version !== destination.version) return true;
    const { version } = source;
    const there = { version, source: source.value, destination: destination.value, protocol: 6 };
    const packet = { ...there, port: CONTROLLER_PORT, sourcePort: 49_152 };
    const now = Date.now();
    const policy = box.document.kind === 'gateway' ? box.document.policy : undefined;
    if (!this.decide(box, policy, packet, now).passed) return false;
    return switches.every(({ document }) => {
      const list = document.kind === 'switch' ? document.list : undefined;
      return [packet, answerTo(packet)].every((each) => !each || this.decide(box, list, each, now).passed);
    });
  }

  /** Whether the packets of a tunnel get from one address to the other, and back: a gateway remembers, switches judge each. */
  letsTunnel(
    { from, to }: { readonly from: string; readonly to: string },
    switches: readonly Box[],
    gateway: Box,
  ): boolean {
    const [source, destination] = [parseIp(from), parseIp(to)];
    if (source?.version !== 4 || destination?.version !== 4) return false;
    const there: Packet = { version: 4, source: source.value, destination: destination.value, protocol: GRE };
    const back: Packet = { ...there, source: there.destination, destination: there.source };
    const now = Date.now();
    const policy = gateway.document.kind === 'gateway' ? gateway.document.policy : undefined;
    if (!this.decide(gateway, policy, there, now).passed) return false;
    return switches.every((box) => {
      const list = box.document.kind === 'switch' ? box.document.list : undefined;
      return [there, back].every((each) => this.decide(box, list, each, now).passed);
    });
  }

  /** Whether switches on the way let a gateway’s words to the other of its pair through (RFC 9568 §5.1). */
  letsVrrp(from: Box, switches: readonly Box[]): boolean {
    const own = from.document.kind === 'gateway' ? from.document.pair?.own.split('/')[0] : undefined;
    const [source, destination] = [parseIp(own ?? ''), parseIp(VRRP_GROUP)];
    if (source?.version !== 4 || destination?.version !== 4) return false;
    const packet: Packet = { version: 4, source: source.value, destination: destination.value, protocol: VRRP };
    return switches.every((box) => {
      const list = box.document.kind === 'switch' ? box.document.list : undefined;
      return this.decide(box, list, packet, Date.now()).passed;
    });
  }

  private note(box: Box, { id }: PolicyRule, packet: Packet, passed: boolean, now: number): void {
    const note = { at: new Date(now).toISOString(), rule: id, packet: packetWords(packet), passed };
    this.notes.set(box, [...(this.notes.get(box) ?? []), note].slice(-NOTES_KEPT));
  }

  /** The latest packets that rules decided which are to note them, oldest first. */
  notesOf = (box: Box): readonly NoteReport[] => this.notes.get(box) ?? [];

  /** What a box counted, by rule of the policy it runs. */
  hitsOf(box: Box): HitReport[] {
    const counts = this.counts.get(box);
    const ids = new Set(policiesOf(box.document).flatMap(({ rules }) => rules.map(({ id }) => id)));
    return [...ids].map((id) => ({ rule: id, packets: counts?.get(id) ?? 0 }));
  }

  private decide({ document }: Box, policy: PolicyDocument | undefined, packet: Packet, now: number): Passing {
    if (!policy) return { passed: true, rule: null };
    const timed = policy.rules.some(({ times, closed }) => times !== undefined || closed !== undefined);
    const moment = timed ? momentAt(now, document.site.timeZone) : 0;
    const rules = timed ? policy.rules.filter((rule) => appliesAtMoment(rule, moment)) : policy.rules;
    const key = timed ? rules.map(({ id }) => id).join() : '';
    let running = this.running.get(policy);
    if (running?.key !== key)
      this.running.set(policy, (running = { decider: new Decider(rules.map(packetRuleOf)), key }));
    const found = running.decider.decide(packet);
    const rule = found ? (policy.rules.find(({ id }) => id === found.id) ?? null) : null;
    return { passed: (rule?.verdict ?? policy.otherwise) === 'allow', rule };
  }
}
