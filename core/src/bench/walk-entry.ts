import {
  asksAt,
  asksWho,
  classBySaid,
  classOf,
  classOnSsid,
  type ApDocument,
  type ClassDocument,
  type ClassSaid,
  type EnterpriseSecurity,
  type RadiusDocument,
  type SsidDocument,
} from '../document';
import type { Documents } from '../lattice';
import { METHOD_WORDS, type AskedFor, type Credentials, type End, type Exchange } from '../radius';
import { PROBE_MAC, type AskedOne, type Probe, type WalkFacts } from './probe';
import { pass, stop, type Decider, type WalkStep } from './walk-step';

/** What servers said of a probe, step by step, and the class that one of them named. */
export interface WalkEntry {
  readonly steps: readonly WalkStep[];
  readonly accessClass?: ClassDocument;
  /** The server that named it. */
  readonly by?: string;
}

/** What is spoken, in words. */
const KEYS: Readonly<Record<EnterpriseSecurity, string>> = {
  'wpa2-enterprise': 'WPA2 with 802.1X',
  'wpa2-wpa3-enterprise': 'WPA2 or WPA3 with 802.1X',
  'wpa3-enterprise': 'WPA3 with 802.1X',
  'wpa3-enterprise-192': 'WPA3 of 192 bits with 802.1X',
};

/** What each end that is no answer comes to for whoever asks. */
const ENDS: Readonly<Record<Exclude<End, 'accepted' | 'rejected' | 'unkept'>, string>> = {
  unresolved: 'Its name is known nowhere',
  unreachable: 'Nothing gets there',
  closed: 'Nothing listens there',
  silent: 'It does not answer',
  unproven: 'Its answer is not made with our secret',
  unsigned: 'Its answer lacks the proof that we demand',
  senseless: 'What it says makes no sense',
  'other-method': 'It wants another method',
  untrusted: 'Its certificate is not believed',
};

/** Why a yes does not lead anywhere. */
export const NOWHERE = {
  class: (said: string) => `It names the class “${said}”, which is not told here.`,
  vlan: (said: string) => `It names VLAN “${said}”, which is that of no class here.`,
  segment: (said: string) => `It names the class “${said}”, whose segment this site does not have.`,
} as const;

export const decider = (server: string): Decider => ({ kind: 'radius', id: server, name: server });

/** One server that was asked. @param last whether nobody is asked after it. @param what somebody is called whom it does not know. */
export function askedStep({ server, exchange }: AskedOne, last: boolean, what: string): WalkStep {
  const { end, why, ms } = exchange;
  const by = decider(server);
  const step = ((): WalkStep => {
    if (end === 'accepted') return pass('asked', `${server} lets in`, `${sayOf(exchange)} It took ${ms} ms.`, by);
    if (end === 'rejected')
      return stop('asked', `${server} turns away`, `It does not let ${what} in. ${why}`.trim(), by);
    if (end === 'unkept') {
      const detail = `${what} is not kept there${last ? ', and nobody else is asked' : ': the next is asked'}.`;
      return last
        ? stop('asked', `${server} does not know`, detail, by)
        : pass('asked', `${server} does not know`, detail, by);
    }
    const detail = `${ENDS[end]}. ${why}`.trim();
    const final = last || end === 'untrusted' || end === 'other-method';
    return final
      ? stop('asked', `${server}: no answer`, detail, by)
      : pass('asked', `${server}: no answer`, `${detail} The next is asked.`, by);
  })();
  return { ...step, exchange };
}

/** What an answer says of a class, or of keys, in a sentence. */
function sayOf({ filterIds, vlan, ring }: Exchange): string {
  const keys = ring ? `It names ${ring.length === 1 ? 'one key' : `${ring.length} keys`} (Tunnel-Password).` : '';
  if (filterIds.length > 0) return `Filter-Id “${filterIds.join('”, “')}”. ${keys}`.trim();
  // A VLAN beside keys says where these lead.
  if (keys !== '') return keys;
  return vlan.kind === 'none'
    ? 'Its answer names neither a class nor a VLAN.'
    : `Its answer names VLAN “${vlan.text}”.`;
}

/** Whom servers are asked for when a probe is walked, as its AP is told or would be; null: for nobody. */
export function walkAsks(
  documents: Documents,
  { apId, ssidId, band, mac, entry, old, gives }: Probe,
): { readonly radius: RadiusDocument; readonly asked: AskedFor } | null {
  const ap = documents.get(apId);
  const ssid = ap?.kind === 'ap' ? ap.ssids.find(({ id }) => id === ssidId) : undefined;
  if (!ap?.radius || !ssid) return null;
  const { radius } = ap;
  const at = { mac: mac ?? PROBE_MAC, at: ssid.name };
  if (asksWho(ssid.security)) {
    const asks = asksAt(ssid, band, '') as EnterpriseSecurity;
    const unfit = !entry || unfitFor(asks, entry.method) !== null;
    return unfit || (old && asks.startsWith('wpa3')) ? null : { radius, asked: { ...entry, ...at } };
  }
  if (ssid.ring?.asked) {
    const asked = { method: 'mac' as const, user: at.mac, password: '', ...at };
    return gives ? { radius, asked: { ...asked, gives } } : null;
  }
  if (!ssid.byClass || mac === undefined || classOf(ap, mac)) return null;
  return { radius, asked: { method: 'mac', user: mac, password: '', ...at } };
}

/** What of a probe an SSID that asks who somebody is makes: by what servers really said, where they were asked. */
export function entryOf(ap: ApDocument, ssid: SsidDocument, probe: Probe, facts: WalkFacts): WalkEntry {
  const by: Decider = { kind: 'ssid', id: ssid.id, name: ssid.name };
  const asks = asksAt(ssid, probe.band, facts.day ?? '') as EnterpriseSecurity;
  const no = (title: string, detail: string): WalkEntry => ({ steps: [stop('authenticate', title, detail, by)] });
  if (probe.old && (asks === 'wpa3-enterprise' || asks === 'wpa3-enterprise-192'))
    return no(
      'Not understood',
      `“${ssid.name}” asks for ${KEYS[asks]}. A client of before it does not find its way in.`,
    );
  const { entry } = probe;
  if (!entry)
    return no(
      'Asked who it is',
      `“${ssid.name}” asks who somebody is (${KEYS[asks]}), and this probe does not say: give it a user.`,
    );
  const unfit = unfitFor(asks, entry.method);
  if (unfit) return no('Refused', `“${ssid.name}”: ${unfit}`);
  if (ap.radius && !facts.asked)
    return no('Not asked', 'Servers are asked for somebody only by whoever may change things here.');
  const { asked = [] } = facts;
  if (asked.length === 0)
    return no('Nobody to ask', `${ap.device.name} is told of no RADIUS server that it could ask for ${entry.user}.`);
  const said = `As ${entry.user}, by ${METHOD_WORDS[entry.method]}. ${ap.device.name} asks ${namesOf(asked)}.`;
  const steps = [
    pass('authenticate', 'Says who it is', said, by),
    ...asked.map((one, i) => askedStep(one, i === asked.length - 1, entry.user)),
  ];
  const last = asked.at(-1)!;
  if (last.exchange.end !== 'accepted') return { steps };
  if (last.exchange.keys === false)
    return {
      steps: [
        ...steps,
        stop('authenticate', 'No keys', 'Its method made no keys that both ends have: nothing can be encrypted.', by),
      ],
    };
  return followed(steps, last.server, classOnSsid(ap, ssid, last.exchange));
}

/** Why a method does not do for what an SSID asks. */
export function unfitFor(asks: EnterpriseSecurity, method: Credentials['method']): string | null {
  if (method === 'eap-md5') return 'EAP-MD5 makes no keys, and what is sent on the air is encrypted by those.';
  if (asks === 'wpa3-enterprise-192' && method !== 'eap-tls')
    return 'for 192 bits clients prove themselves by a certificate alone (EAP-TLS), not by a password.';
  return null;
}

/** The same of a MAC address, where an SSID asks servers about those that no class lists. @param led whether a key says where it goes. */
export function macAsked(
  ap: ApDocument,
  ssid: SsidDocument,
  { mac }: Probe,
  facts: WalkFacts,
  led: boolean,
): WalkEntry {
  const { asked } = facts;
  const whose = mac ?? PROBE_MAC;
  if (!ap.radius || !ssid.byClass || asksWho(ssid.security) || led || classOf(ap, whose)) return { steps: [] };
  const device: Decider = { kind: 'device', id: '', name: ap.device.name };
  if (!asked || asked.length === 0) {
    const detail = `No class lists ${whose}, and nobody was asked about it here: it goes on as somebody whom no server knows.`;
    return { steps: [pass('asked', 'Not asked about', detail, device)] };
  }
  // Whom servers do not know joins the SSID’s own segment: none of their noes ends a walk.
  const steps = asked.map((one): WalkStep => ({ ...askedStep(one, false, whose), passed: true }));
  const last = asked.at(-1)!;
  if (last.exchange.end !== 'accepted') return { steps };
  const chosen = classBySaid(ap, last.exchange);
  // What counts for everybody else counts for it by itself.
  return chosen.ok && chosen.by !== 'otherwise' ? followed(steps, last.server, chosen) : { steps };
}

export const namesOf = (asked: readonly AskedOne[]): string => asked.map(({ server }) => `“${server}”`).join(', then ');

function followed(steps: readonly WalkStep[], server: string, chosen: ClassSaid): WalkEntry {
  if (!chosen.ok)
    return { steps: [...steps, stop('vlan', 'Let in nowhere', NOWHERE[chosen.why](chosen.said), decider(server))] };
  const { accessClass, by } = chosen;
  return accessClass ? { steps, accessClass, ...(by === 'otherwise' ? {} : { by: server }) } : { steps };
}
