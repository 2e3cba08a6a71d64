import { ask, toldWays, type Answer, type ReachInput } from '../assess';
import { parseIp } from '../address';
import { asksWho, classOf, keyAnswer, ringPlace, type DeviceDocument, type PortDocument } from '../document';
import type { ProbeTry } from '../line';
import { entersPort, joinsOnSsid, type AtPort, type Documents, type Joined } from '../lattice';
import { attachedKey, siteInEffect } from '../rollout';
import { appliesAtMoment, type PolicyBook } from '../rules';
import { PROBE_MAC, type HeldKey } from './probe';

/** What a pretend client on an SSID or a port tries, at a device that has it. */
export interface SeatQuestion {
  readonly deviceId: string;
  readonly probe: ProbeTry;
  /** An address, or a name that the site's name servers know. */
  readonly target: string;
}
/** What came of it. */
export interface SeatAnswer {
  /** By the devices, from the documents they run. */
  readonly live: { readonly ok: boolean; readonly text: string; readonly stoppedBy?: string };
  /** By the rules of the draft; null where they say nothing of it, as of names. */
  readonly draft: { readonly passes: boolean; readonly text: string } | null;
  /** Whether the two disagree about what rules let through. */
  readonly differs: boolean;
}

/** A pretend client that is kept under a name, on an SSID near an AP or on a port. */
export interface KeptProbe {
  readonly id: string;
  readonly name: string;
  readonly seat: {
    readonly deviceId: string;
    readonly ssid?: string;
    readonly port?: string;
    /** Whose MAC address it takes; absent: one that nobody knows. */
    readonly mac?: string;
    /** Id of the key of a ring that it gives. */
    readonly key?: string;
  };
}

/** A question that is kept, with the answer it should have. */
export interface SuiteQuestion extends SeatQuestion {
  readonly id: string;
  readonly expects: 'answer' | 'none';
}
export interface SuiteResult {
  readonly questionId: string;
  readonly words: string;
  readonly passed: boolean;
  readonly got: string;
}
/** All questions of a site asked once. */
export interface SuiteRun {
  readonly id: string;
  /** The revision that was live. */
  readonly revision: number | null;
  readonly at: string;
  readonly results: readonly SuiteResult[];
}

/** The key of a ring that a seat gives, and the moment by the site's clock, such as `2026-12-31 10:59`. */
export interface SeatKey {
  readonly key: HeldKey | null;
  readonly now: string;
}

/** What becomes of a seat by a set of documents; null where the device has no such seat. */
function joinedAt(documents: Documents, { deviceId, probe }: SeatQuestion, given: SeatKey): Joined | null {
  const document = documents.get(deviceId);
  if (!document) return null;
  const { mac = null } = probe;
  if (probe.ssid === undefined) {
    const port = document.ports.find(({ name }) => name === probe.port);
    return port ? atPort(document, port, probe) : null;
  }
  const ssid = document.kind === 'ap' ? document.ssids.find(({ name }) => name === probe.ssid) : undefined;
  // Who does not say who it is, is not let in where that is asked.
  if (ssid && asksWho(ssid.security) && !probe.entry) return { vlan: null };
  // What servers would say is being found out: one that gives a key goes where most do.
  if (ssid?.ring?.asked) return probe.gives ? joinsOnSsid(document, ssid, mac) : { vlan: null };
  if (!ssid?.ring) return ssid ? joinsOnSsid(document, ssid, mac) : null;
  const { key, now } = given;
  const answer = key
    ? keyAnswer(ringPlace(document, ssid, ssid.ring), { ...key, key: '' }, { mac: mac ?? PROBE_MAC, now, others: 0 })
    : null;
  return answer?.ok ? joinsOnSsid(document, ssid, mac, answer) : { vlan: null };
}

/** The same at a port, as far as the documents say: what servers would is being found out. */
function atPort(
  document: DeviceDocument,
  port: PortDocument,
  { mac, entry }: ProbeTry,
): AtPort<'unlisted' | 'unasked'> {
  const { radius } = document;
  const listed = mac === undefined ? undefined : classOf(document, mac);
  const servers = radius?.servers ?? [];
  return entersPort<'unlisted' | 'unasked'>(port, {
    '802.1X': () =>
      !entry ? { state: 'mute' } : servers.length > 0 ? { state: 'asking' } : { state: 'unanswered', why: 'unasked' },
    mac: () => {
      if (listed) return { state: 'in', accessClass: listed };
      const asks = mac !== undefined && servers.some(({ macs }) => macs !== undefined);
      return asks ? { state: 'asking' } : { state: 'not', why: 'unlisted' };
    },
  });
}

/** Whether who a seat is gets asked of RADIUS servers: what they say no draft knows. */
function isAskedElsewhere(
  documents: Documents,
  { deviceId, probe }: SeatQuestion,
  joined: Joined & Pick<AtPort<string>, 'why'>,
): boolean {
  const document = documents.get(deviceId);
  if (!document?.radius || joined.accessClass || joined.led) return false;
  const ssid = document.kind === 'ap' ? document.ssids.find(({ name }) => name === probe.ssid) : undefined;
  if (ssid)
    return asksWho(ssid.security) ? probe.entry !== undefined : ssid.byClass === true && probe.mac !== undefined;
  return joined.vlan === null && joined.why === undefined;
}

/** The hours of a seat's port, by name, where it is not in use at a moment; null where it is. */
function shutPort(documents: Documents, { deviceId, probe }: SeatQuestion, moment: number): string | null {
  const hours = documents.get(deviceId)?.ports.find(({ name }) => name === probe.port)?.hours;
  return hours && !appliesAtMoment(hours, moment) ? hours.name : null;
}

/** What the rules of a draft say, at a minute of the week, of what a seat tries; null where they say nothing. */
export function draftOfSeat(
  input: ReachInput,
  question: SeatQuestion,
  minute: number,
  given: SeatKey,
  book?: PolicyBook,
): SeatAnswer['draft'] {
  const { probe, target } = question;
  const documents = siteInEffect(input.site, input.roster);
  const shut = shutPort(documents, question, minute);
  if (shut) return { passes: false, text: `The draft has port ${probe.port} in use at ${shut} alone.` };
  const joined = joinedAt(documents, question, given);
  if (joined === null) return { passes: false, text: 'The draft has no such seat.' };
  if (isAskedElsewhere(documents, question, joined)) return null;
  if (joined.vlan === null) return { passes: false, text: 'The draft lets nobody in there whom it does not know.' };
  const segment = input.site.segments.find((each) => each.vlan === joined.vlan);
  if (!segment || !parseIp(target) || probe.does === 'lookup') return null;
  const services = probe.does === 'connect' ? `${probe.protocol ?? 'tcp'} ${probe.number ?? 443}` : 'icmp 8/0';
  const from = `"segment ${segment.name}"`;
  const ssid = input.site.ssids.find(({ name }) => name === probe.ssid);
  const attached = { from: attachedKey(ssid?.id ?? null, joined.accessClass?.id ?? null) };
  const answer = ask(input, { question: { from, to: target, services }, on: 'draft', minute, attached }, book);
  if ('flaws' in answer) return null;
  const passes = answer.reach === 'all' && answer.back.every(({ passed }) => passed);
  // What a neighbour makes of it nobody here knows.
  if (passes && isElsewhere(documents, target)) return null;
  return { passes, text: wordsOf(answer) };
}

/** Whether what a seat tries goes on from the gateway to a neighbour, or into a tunnel to another site. */
function isElsewhere(documents: Documents, target: string): boolean {
  const ip = parseIp(target);
  const gateway = [...documents.values()].find((each) => each.kind === 'gateway' && each.interfaces.length > 0);
  const way = ip && gateway?.kind === 'gateway' ? toldWays(gateway)(ip) : null;
  if (way?.kind === 'pact') return true;
  return way?.kind === 'overlay' ? way.line.peer !== null : way?.route.to !== undefined;
}

function wordsOf({ reach, there, back }: Answer): string {
  const cut = back.find(({ passed }) => !passed);
  if (cut) return `The draft lets it through and stops the answer at ${cut.at}. ${cut.detail}`;
  const last = there.at(-1);
  const where = last && !last.passed ? ` at ${last.at}` : '';
  if (reach === 'all') return `The draft lets it through. ${last?.detail ?? ''}`.trim();
  return `The draft ${reach === 'none' ? 'stops it' : 'stops some of it'}${where}. ${last?.detail ?? ''}`.trim();
}

/** What a question says, as a sentence: `Ping 10.1.2.3 from Deck`. */
export function seatWords({ probe, target }: SeatQuestion): string {
  const from = probe.ssid ?? `port ${probe.port}`;
  if (probe.does === 'connect')
    return `${(probe.protocol ?? 'tcp').toUpperCase()} ${probe.number} of ${target} from ${from}`;
  return `${{ ping: 'Ping', trace: 'Route to', lookup: 'Look up' }[probe.does]} ${target} from ${from}`;
}
