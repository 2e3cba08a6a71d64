import { parseIp } from '@iron-lattice/core/address';
import type { HitReport } from '@iron-lattice/core/line';
import {
  isInForce,
  minuteOfWeek,
  packetRuleOf,
  Decider,
  type Packet,
  type PolicyDocument,
  type PolicyRule,
} from '@iron-lattice/core/rules';
import type { Box } from './box';

/** Where TCP is open for devices at the controller. */
const CONTROLLER_PORT = 443;

/** What became of a packet at a gateway. */
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

/** What gateways let pass by the policies they run, and what they count. They remember what they let through. */
export class Policing {
  private readonly running = new WeakMap<PolicyDocument, Running>();
  /** Packets by rule, of each box. */
  private readonly counts = new WeakMap<Box, Map<string, number>>();

  /** Decides a packet that begins something, and counts it. */
  pass(box: Box, packet: Packet, now = Date.now()): Passing {
    const passing = this.judge(box, packet, now);
    const { rule } = passing;
    if (rule) {
      const counts = this.counts.get(box) ?? new Map<string, number>();
      this.counts.set(box, counts);
      counts.set(rule.id, (counts.get(rule.id) ?? 0) + 1);
    }
    return passing;
  }

  /** Whether a device at an address gets its line to the controller through. */
  letsOut(box: Box, address: string | null, controller: string): boolean {
    const source = address === null ? null : parseIp(address);
    const destination = parseIp(controller);
    if (!source || !destination || source.version !== destination.version) return true;
    const { version } = source;
    const packet = { version, source: source.value, destination: destination.value, protocol: 6 };
    return this.judge(box, { ...packet, port: CONTROLLER_PORT, sourcePort: 49_152 }, Date.now()).passed;
  }

  /** What a box counted, by rule of the policy it runs. */
  hitsOf(box: Box): HitReport[] {
    const { document } = box;
    const counts = this.counts.get(box);
    if (document.kind !== 'gateway' || !document.policy) return [];
    return document.policy.rules.map(({ id }) => ({ rule: id, packets: counts?.get(id) ?? 0 }));
  }

  private judge({ document }: Box, packet: Packet, now: number): Passing {
    const policy = document.kind === 'gateway' ? document.policy : undefined;
    if (!policy) return { passed: true, rule: null };
    const minute = minuteOfWeek(now, document.site.timeZone);
    const rules = policy.rules.filter(({ times }) => isInForce(times, minute));
    const key = rules.map(({ id }) => id).join();
    let running = this.running.get(policy);
    if (running?.key !== key)
      this.running.set(policy, (running = { decider: new Decider(rules.map(packetRuleOf)), key }));
    const found = running.decider.decide(packet);
    const rule = found ? (policy.rules.find(({ id }) => id === found.id) ?? null) : null;
    return { passed: (rule?.verdict ?? policy.otherwise) === 'allow', rule };
  }
}
