import { minuteWords, writeTimes } from '../rules';
import {
  appliesAt,
  asksAt,
  asksPassphrase,
  asksWho,
  farEndOfSsid,
  isFormerValid,
  tunnelOfSsid,
  type ApDocument,
  type ClassDocument,
  type SsidDocument,
} from '../document';
import type { Link } from '../intent';
import { joinsOnSsid, type Documents } from '../lattice';
import { isPlugged, PROBE_MAC, type AnyProbe, type Probe, type WalkFacts } from './probe';
import { entryOf, macAsked } from './walk-entry';
import { onward } from './walk-onward';
import { atPort } from './walk-port';
import { heldAgainStep, portalOnSsid, portalSteps } from './walk-portal';
import { asksKey, ledStep, throughRing } from './walk-ring';
import { pass, stop, type Decider, type Walk, type WalkStep } from './walk-step';

/**
 * Walks a probe from the air, or a port, to the internet on a set of documents: compiled from a draft, or those that devices
 * acknowledged. Pure, so both give the same answer for the same documents.
 */
export function walk(documents: Documents, links: readonly Link[], probe: AnyProbe, facts: WalkFacts): Walk {
  const steps: WalkStep[] = [];
  const all = isPlugged(probe) ? atPort(documents, links, probe, facts) : stepsOf(documents, links, probe, facts);
  for (const step of all) {
    steps.push(step);
    if (!step.passed) return { steps, arrived: false };
  }
  return { steps, arrived: true };
}

function* stepsOf(documents: Documents, links: readonly Link[], probe: Probe, facts: WalkFacts): Generator<WalkStep> {
  const ap = documents.get(probe.apId);
  if (ap?.kind !== 'ap') {
    yield stop(
      'associate',
      'Nothing to associate with',
      'This AP runs no document of ours yet.',
      apDecider(probe.apId, ap),
    );
    return;
  }
  const ssid = ap.ssids.find((each) => each.id === probe.ssidId);
  yield associate(ap, ssid, probe, facts);
  const { mac = PROBE_MAC } = probe;
  const said = asksWho(ssid!.security) ? entryOf(ap, ssid!, probe, facts) : null;
  const ring = asksKey(ssid!) ? throughRing(ap, ssid, probe, facts) : null;
  if (said ?? ring) yield* (said ?? ring)!.steps;
  else yield authenticate(ssid!, probe, facts);
  const led = ring?.led;
  const asked = said ?? macAsked(ap, ssid!, probe, facts, ring !== null && (ssid!.ring!.asked || led !== undefined));
  if (!said) yield* asked.steps;
  const { vlan: joins, accessClass } = joinsOnSsid(ap, ssid!, mac, led, asked.accessClass);
  yield led ? ledStep(led) : vlanStep(ssid!, mac, joins, accessClass, asked.by);
  if (joins === null) return;

  const lists = accessClass ? ssid!.classLists?.find(({ id }) => id === accessClass.id) : ssid!.lists;
  const inside = tunnelOfSsid(ap, ssid!);
  const far = farEndOfSsid(ssid!) !== null;
  const portal = portalOnSsid(ap, ssid!, facts);
  const more = { ...(inside ? { inside, far } : {}), held: portalSteps(ap, portal, probe, facts) };
  yield* onward({ documents, links, deviceId: probe.apId, joins, ...more, lists, facts });
  const again = heldAgainStep(portal, facts);
  if (again) yield again;
}

function associate(
  ap: ApDocument,
  ssid: SsidDocument | undefined,
  probe: Probe,
  { minute, day = '' }: WalkFacts,
): WalkStep {
  const decider = apDecider(probe.apId, ap);
  if (!ssid) return stop('associate', 'SSID not heard', `${ap.device.name} does not send this SSID.`, decider);
  const by: Decider = { kind: 'ssid', id: ssid.id, name: ssid.name };
  if (!ssid.bands.includes(probe.band))
    return stop(
      'associate',
      'SSID not heard',
      `“${ssid.name}” is not sent on ${probe.band} GHz by ${ap.device.name}.`,
      by,
    );
  if (ssid.hours && !appliesAt(ssid.hours, minute, day)) {
    const { name, times, closed } = ssid.hours;
    const left = closed?.includes(day) ? `, and ${day} is left out` : '';
    const detail = `“${ssid.name}” is sent ${writeTimes(times)} (${name}); there it is ${minuteWords(minute)}${left}.`;
    return stop('associate', 'Not on the air now', detail, by);
  }
  const radio = ap.radios?.find(({ band }) => band === probe.band);
  if (radio?.off)
    return stop('associate', 'The radio is off', `${ap.device.name} sends nothing at ${probe.band} GHz.`, decider);
  const listens = radio?.radar
    ? ` Channel ${radio.at?.channel} is listened to for radar for ${radio.radar.listen} s before it is used.`
    : '';
  const hidden = ssid.hidden ? ' Its name is in no beacon: the client asks for it by name wherever it is.' : '';
  const detail = `“${ssid.name}” on ${probe.band} GHz.${listens}${hidden}`;
  return pass('associate', `Associated with ${ap.device.name}`, detail, by);
}

/** How clients prove themselves, in words. */
const ASKS = {
  owe: 'OWE',
  'wpa2-psk': 'WPA2',
  'wpa2-wpa3-psk': 'WPA2 or WPA3',
  'wpa3-sae': 'WPA3',
} as const;

function authenticate(ssid: SsidDocument, probe: Probe, { day = '' }: WalkFacts): WalkStep {
  const by: Decider = { kind: 'ssid', id: ssid.id, name: ssid.name };
  const asks = asksAt(ssid, probe.band, day);
  if (asks === 'open')
    return pass(
      'authenticate',
      'Let in unasked',
      `“${ssid.name}” is open: what is sent can be read by anybody near.`,
      by,
    );
  const method = ASKS[asks as keyof typeof ASKS];
  if (probe.old && (method === 'OWE' || method === 'WPA3')) {
    const where =
      probe.band === '6' ? 'At 6 GHz there is no older one.' : 'A client of before it does not find its way in.';
    return stop('authenticate', 'Not understood', `“${ssid.name}” asks for ${method}. ${where}`, by);
  }
  if (!asksPassphrase(asks)) {
    const detail = `“${ssid.name}” asks for nothing, and what is sent is encrypted all the same (OWE).`;
    return pass('authenticate', 'Let in, encrypted', detail, by);
  }
  if (probe.former) return withFormer(ssid, method, day, by);
  if (!probe.knowsPassphrase)
    return stop('authenticate', 'Refused', `The passphrase is not that of “${ssid.name}” (${method}).`, by);
  const used = method === 'WPA2 or WPA3' && probe.old ? 'WPA2' : method;
  return pass('authenticate', 'Authenticated', `The passphrase is right (${used}).`, by);
}

/** How one fares that knows the passphrase of before. */
function withFormer(ssid: SsidDocument, method: string, day: string, by: Decider): WalkStep {
  const { former, name } = ssid;
  if (!former) return stop('authenticate', 'Refused', `“${name}” has another passphrase now (${method}).`, by);
  if (!isFormerValid(ssid, day))
    return stop('authenticate', 'Refused', `The old passphrase of “${name}” was right until ${former.until}.`, by);
  if (method !== 'WPA2') {
    const detail = `“${name}” asks for ${method} there, which knows the new passphrase alone.`;
    return stop('authenticate', 'Refused', detail, by);
  }
  return pass('authenticate', 'Authenticated', `The old passphrase is right until ${former.until} (${method}).`, by);
}

/** @param server that named the class. */
function vlanStep(
  ssid: SsidDocument,
  mac: string,
  vlan: number | null,
  accessClass?: ClassDocument,
  server?: string,
): WalkStep {
  if (accessClass) {
    const by: Decider = { kind: 'class', id: accessClass.id, name: accessClass.name };
    const known =
      server !== undefined
        ? `“${server}” names the class “${accessClass.name}”`
        : accessClass.members.includes(mac) && !asksWho(ssid.security)
          ? `${mac} is known: it has the class “${accessClass.name}”`
          : `Nothing gives it another class: it has that of everybody else, “${accessClass.name}”`;
    if (vlan === null) return stop('vlan', 'Not let in', `${known}, whose segment this site does not have.`, by);
    return pass('vlan', `VLAN ${vlan}`, `${known}, which joins VLAN ${vlan}.`, by);
  }
  const why = ssid.pool
    ? `“${ssid.name}” spreads its clients over ${ssid.pool.length} VLANs; the probe’s MAC address ${mac} falls to VLAN ${vlan}.`
    : `“${ssid.name}” puts its clients into VLAN ${vlan}.`;
  return pass('vlan', `VLAN ${vlan}`, why, { kind: 'ssid', id: ssid.id, name: ssid.name });
}

const apDecider = (id: string, ap: { device: { name: string } } | undefined): Decider => ({
  kind: 'device',
  id,
  name: ap?.device.name ?? 'the AP',
});
