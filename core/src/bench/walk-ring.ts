import {
  keyAnswer,
  serverKeyAnswer,
  type ApDocument,
  type KeyAnswer,
  type KeyRefusal,
  ringPlace,
  type KeyLed,
  type RingDocument,
  type SsidDocument,
} from '../document';
import { PROBE_MAC, type AskedOne, type HeldKey, type Probe, type WalkFacts } from './probe';
import { askedStep, namesOf } from './walk-entry';
import { pass, stop, type Decider, type WalkStep } from './walk-step';

/** How a probe fares that an SSID asks for a key of its ring, and where the key leads; absent: to the SSID’s own segment. */
export interface WalkRing {
  readonly steps: readonly WalkStep[];
  readonly led?: Led;
}
interface Led extends KeyLed {
  /** Whose key it is, in words. */
  readonly whose: string;
  readonly by: Decider;
}

type RingSsid = SsidDocument & { readonly ring: RingDocument };

/** Whether an SSID asks for a key of a ring. */
export const asksKey = (ssid: SsidDocument): ssid is RingSsid => ssid.ring !== undefined;

/** Walks a probe through the ring of an SSID: one whose keys its APs have, or whose keys servers name. */
export function throughRing(ap: ApDocument, ssid: RingSsid, probe: Probe, facts: WalkFacts): WalkRing {
  const by: Decider = { kind: 'ssid', id: ssid.id, name: ssid.name };
  return ssid.ring.asked ? askedKey(ap, ssid, probe, facts, by) : heldKey(ap, ssid, probe, facts, by);
}

/** The step that says where a key leads. */
export function ledStep({ at, accessClass, whose, by }: Led): WalkStep {
  const vlan = accessClass?.vlan ?? at!.vlan;
  const where = accessClass ? `the class “${accessClass.name}”, which joins` : `${at!.name},`;
  return pass('vlan', `VLAN ${vlan}`, `${whose} leads to ${where} VLAN ${vlan}.`, by);
}

const KEY_STOPS: Readonly<Record<KeyRefusal, (key: HeldKey, mac: string) => string>> = {
  bound: ({ macs = [] }, mac) => `is bound to ${macs.join(', ')}, and the probe is ${mac}`,
  devices: ({ macs = [] }, mac) =>
    `has been given by as many devices as may (${macs.join(', ')}), and ${mac} is none of them`,
  early: ({ from }) => `is right from ${from} on`,
  over: ({ until }) => `was right until ${until}`,
  nowhere: ({ segment, accessClass }) =>
    accessClass === undefined
      ? `leads to ${segment}, which keys do not lead to here`
      : `leads to the class “${accessClass}”, which keys do not lead to here`,
};

/** A key that APs have. */
function heldKey(
  ap: ApDocument,
  ssid: RingSsid,
  { mac = PROBE_MAC }: Probe,
  { key, moment = '' }: WalkFacts,
  by: Decider,
): WalkRing {
  const no = (detail: string): WalkRing => ({ steps: [stop('authenticate', 'Refused', detail, by)] });
  if (!key) return no(`No key of “${ssid.name}” is the one that is given (WPA2).`);
  const answer = keyAnswer(ringPlace(ap, ssid, ssid.ring), { ...key, key: '' }, { mac, now: moment, others: 0 });
  if (!answer.ok) return no(`The key of ${key.name} ${KEY_STOPS[answer.why](key, mac)}.`);
  return right(answer, `The key of ${key.name}`, by);
}

function right(answer: Extract<KeyAnswer, { ok: true }>, whose: string, by: Decider): WalkRing {
  const { at, accessClass } = answer;
  const where = accessClass ? `the class “${accessClass.name}”` : (at?.name ?? 'no segment of its own');
  const steps = [pass('authenticate', 'Authenticated', `${whose} is right (WPA2), and leads to ${where}.`, by)];
  return at || accessClass ? { steps, led: { ...answer, whose, by } } : { steps };
}

/** Keys that servers name for a MAC address, and which of them is given. */
function askedKey(ap: ApDocument, ssid: RingSsid, probe: Probe, facts: WalkFacts, by: Decider): WalkRing {
  const { mac = PROBE_MAC } = probe;
  const no = (title: string, detail: string): WalkRing => ({ steps: [stop('authenticate', title, detail, by)] });
  if (!probe.gives)
    return no('Asked for a key', `“${ssid.name}” asks for a key of its ring, and this probe gives none: type one.`);
  if (ap.radius && !facts.asked)
    return no('Not asked', 'Servers are asked for keys only by whoever may change things here.');
  const { asked = [] } = facts;
  const last = asked.at(-1);
  if (!last)
    return no('Nobody to ask', `${ap.device.name} is told of no RADIUS server that it could ask for keys of ${mac}.`);
  const steps = [
    pass('authenticate', 'Gives a key', `${ap.device.name} asks ${namesOf(asked)} for the keys of ${mac}.`, by),
    ...asked.map((one, i) => askedStep(one, i === asked.length - 1, mac)),
  ];
  return last.exchange.end === 'accepted' ? keyNamed(ap, ssid, last, steps, by) : { steps };
}

function keyNamed(
  ap: ApDocument,
  ssid: RingSsid,
  { server, exchange }: AskedOne,
  steps: readonly WalkStep[],
  by: Decider,
): WalkRing {
  const { ring = [] } = exchange;
  const given = ring.find((each) => each.given);
  const at: Decider = { kind: 'radius', id: server, name: server };
  const no = (detail: string): WalkRing => ({ steps: [...steps, stop('authenticate', 'Refused', detail, at)] });
  if (ring.length === 0) return no(`“${server}” lets in and names no key (Tunnel-Password): nobody gets in by that.`);
  if (!given)
    return no(
      `“${server}” names ${ring.length === 1 ? 'one key' : `${ring.length} keys`}, and none of them is the one that is given.`,
    );
  const answer = serverKeyAnswer(ringPlace(ap, ssid, ssid.ring), { filterIds: exchange.filterIds, vlan: given.vlan });
  if (!answer.ok)
    return no(
      `The key is right, and “${server}” says that it leads to “${exchange.filterIds[0] ?? given.vlan.text}”, where keys do not lead here.`,
    );
  const through = right(answer, `The key that “${server}” names`, answer.at || answer.accessClass ? at : by);
  return { ...through, steps: [...steps, ...through.steps] };
}
