import { contains, formatIp, parseIp, parsePrefix, subtractRanges, type IpRange } from '../address';
import { minuteWords, momentOn, writeTimes } from '../rules';
import {
  appliesAt,
  asksAt,
  asksPassphrase,
  asksWho,
  isFormerValid,
  interfacesOf,
  type AddressServiceDocument,
  type ApDocument,
  type ClassDocument,
  type GatewayDocument,
  type SpanDocument,
  type SsidDocument,
  keyAnswer,
  type KeyAnswer,
  type KeyRefusal,
  type RingSegment,
} from '../document';
import { MESH_PORT, type Link, type LinkEnd } from '../intent';
import { joinsOnSsid, traceStrand, traceTunnel, type Documents, type Hop } from '../lattice';
import { PROBE_MAC, type HeldKey, type Probe, type WalkFacts } from './probe';
import { rulesOnWay, tunnelOnWay } from './walk-rules';
import { intoTunnel, outOfTunnel } from './walk-tunnel';
import { entryOf, macAsked } from './walk-entry';
import { pass, stop, type Decider, type Walk, type WalkStep } from './walk-step';

/**
 * Walks a probe from the air to the internet on a set of documents: compiled from a draft, or those that devices
 * acknowledged. Pure, so both give the same answer for the same documents.
 */
export function walk(documents: Documents, links: readonly Link[], probe: Probe, facts: WalkFacts): Walk {
  const steps: WalkStep[] = [];
  for (const step of stepsOf(documents, links, probe, facts)) {
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
  if (said) yield* said.steps;
  else yield authenticate(ssid!, probe, facts);
  const answer = answerOf(ssid!, probe, facts);
  const led = answer?.ok ? answer.at : undefined;
  const asked = said ?? macAsked(ap, ssid!, probe, facts, led !== undefined);
  if (!said) yield* asked.steps;
  const { vlan: joins, accessClass } = joinsOnSsid(ap, ssid!, mac, led, asked.accessClass);
  yield led ? ledStep(ssid!, led, facts.key!) : vlanStep(ssid!, mac, joins, accessClass, asked.by);
  if (joins === null) return;

  const inside = ssid!.tunnel ? ap.tunnel : undefined;
  const strand = inside
    ? traceTunnel(documents, links, probe.apId, joins)
    : traceStrand(documents, links, probe.apId, joins);
  if (inside) yield intoTunnel(ap, probe.apId, inside, joins);
  if (strand.state === 'no-way') {
    const detail = 'No chain of reported cables leads from this AP to a gateway that routes the VLAN.';
    yield stop('link', 'No way to the gateway', detail, { kind: 'device', id: probe.apId, name: ap.device.name });
    return;
  }
  for (const hop of strand.hops) yield crossing(documents, hop);
  if (strand.state === 'broken') {
    const { end, vlan, as } = strand.gaps[0]!;
    const { name } = documents.get(end.deviceId)!.device;
    const how = as === 'tagged' ? 'tagged' : 'untagged';
    const detail = `Port ${end.port} of ${name} does not carry VLAN ${vlan} ${how}, so it drops the frame.`;
    yield stop('link', `Stopped at ${name} port ${end.port}`, detail, portDecider(documents, end));
    return;
  }
  if (inside) {
    const asked = { documents, apId: probe.apId, moment: momentOf(facts) };
    if (strand.state === 'whole') yield* tunnelOnWay(asked, strand, inside);
    yield outOfTunnel(documents, strand, inside, joins, facts.silent ?? false);
  }
  if (strand.state === 'untaken') return;
  const router = documents.get(strand.gatewayId)!;
  let given = '';
  for (const step of addressing(documents, strand.gatewayId, strand.vlan, facts)) {
    given = step.address ?? given;
    yield step;
  }
  if (router.kind === 'gateway') {
    const { gatewayId } = strand;
    const hops = inside ? [] : strand.hops; // switches do not see what is in a tunnel
    const moment = momentOf(facts);
    const lists = accessClass ? ssid!.classLists?.find(({ id }) => id === accessClass.id) : ssid!.lists;
    if (given) yield* rulesOnWay({ documents, apId: probe.apId, lists, hops, gatewayId, address: given, moment });
    yield* outward(router, gatewayId, facts, given || 'the client’s address');
    return;
  }
  const home = traceStrand(documents, links, strand.gatewayId, router.management.vlan);
  const decider: Decider = { kind: 'device', id: strand.gatewayId, name: router.device.name };
  if (home.state !== 'whole') {
    yield stop('link', 'No way on', `${router.device.name} has no way from its own VLAN to the gateway.`, decider);
    return;
  }
  const detail = `${router.device.name} sends the frames on as its own, in VLAN ${router.management.vlan}.`;
  yield pass('link', `Translated by ${router.device.name}`, detail, decider);
  const gateway = documents.get(home.gatewayId)!;
  if (gateway.kind === 'gateway') yield* outward(gateway, home.gatewayId, facts, 'the AP’s address');
}

/** The moment of a walk; one of any week where no day is said. */
const momentOf = ({ minute, day }: WalkFacts): number => (day ? momentOn(day, minute % 1440) : minute);

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

function authenticate(ssid: SsidDocument, probe: Probe, facts: WalkFacts): WalkStep {
  const { day = '' } = facts;
  const by: Decider = { kind: 'ssid', id: ssid.id, name: ssid.name };
  if (ssid.ring) return withKey(ssid, probe, facts, by);
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

/** What a key comes to for a probe; null: it is none of the ring's. */
function answerOf(
  { ring }: SsidDocument,
  { mac = PROBE_MAC }: Probe,
  { key, moment = '' }: WalkFacts,
): KeyAnswer | null {
  return ring && key ? keyAnswer(ring, { ...key, key: '' }, { mac, now: moment, others: 0 }) : null;
}

const KEY_STOPS: Readonly<Record<KeyRefusal, (key: HeldKey, mac: string) => string>> = {
  bound: ({ macs = [] }, mac) => `is bound to ${macs.join(', ')}, and the probe is ${mac}`,
  devices: ({ macs = [] }, mac) =>
    `has been given by as many devices as may (${macs.join(', ')}), and ${mac} is none of them`,
  early: ({ from }) => `is right from ${from} on`,
  over: ({ until }) => `was right until ${until}`,
  nowhere: ({ segment }) => `leads to ${segment}, which keys do not lead to here`,
};

/** How one fares that gives a key of a ring. */
function withKey(ssid: SsidDocument, probe: Probe, facts: WalkFacts, by: Decider): WalkStep {
  const { key } = facts;
  const answer = answerOf(ssid, probe, facts);
  if (!key || !answer)
    return stop('authenticate', 'Refused', `No key of “${ssid.name}” is the one that is given (WPA2).`, by);
  const { name } = key;
  if (!answer.ok) {
    const why = KEY_STOPS[answer.why](key, probe.mac ?? PROBE_MAC);
    return stop('authenticate', 'Refused', `The key of ${name} ${why}.`, by);
  }
  const where = answer.at ? `leads to ${answer.at.name}` : 'leads to the SSID’s own segment';
  return pass('authenticate', 'Authenticated', `The key of ${name} is right (WPA2), and ${where}.`, by);
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

const ledStep = ({ id, name }: SsidDocument, { vlan, name: segment }: RingSegment, key: HeldKey): WalkStep =>
  pass('vlan', `VLAN ${vlan}`, `The key of ${key.name} leads to ${segment}, VLAN ${vlan}.`, { kind: 'ssid', id, name });

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
      server === undefined
        ? `${mac} is known: it has the class “${accessClass.name}”`
        : `“${server}” names the class “${accessClass.name}”`;
    if (vlan === null) return stop('vlan', 'Not let in', `${known}, whose segment this site does not have.`, by);
    return pass('vlan', `VLAN ${vlan}`, `${known}, which joins VLAN ${vlan}.`, by);
  }
  const why = ssid.pool
    ? `“${ssid.name}” spreads its clients over ${ssid.pool.length} VLANs; the probe’s MAC address ${mac} falls to VLAN ${vlan}.`
    : `“${ssid.name}” puts its clients into VLAN ${vlan}.`;
  return pass('vlan', `VLAN ${vlan}`, why, { kind: 'ssid', id: ssid.id, name: ssid.name });
}

function crossing(documents: Documents, hop: Hop): WalkStep {
  const name = (end: LinkEnd): string => `${documents.get(end.deviceId)!.device.name} port ${end.port}`;
  const tag = hop.tag === null ? 'untagged' : `tag ${hop.tag}`;
  if (hop.to.port === MESH_PORT) {
    const [to, from] = [hop.to, hop.from].map(({ deviceId }) => documents.get(deviceId)!.device.name);
    const detail = `From ${from}, over the radio between them; in VLAN ${hop.vlan} from here on.`;
    const decider: Decider = { kind: 'device', id: hop.to.deviceId, name: to! };
    return { ...pass('link', `By radio to ${to}`, detail, decider), tag: hop.tag };
  }
  const detail = `From ${name(hop.from)}, ${tag}; in VLAN ${hop.vlan} from here on.`;
  const step = pass('link', `${name(hop.to)}, ${tag}`, detail, portDecider(documents, hop.to));
  return { ...step, tag: hop.tag };
}

/** Who gives addresses in a VLAN that a router has an address in. */
function serverOf(
  documents: Documents,
  routerId: string,
  vlan: number,
):
  | { readonly id: string; readonly name: string; readonly service: AddressServiceDocument }
  | { readonly relay: string }
  | null {
  const router = documents.get(routerId)!;
  const relay = router.kind === 'gateway' ? router.relays?.find((each) => each.vlan === vlan) : undefined;
  const ids = [routerId, ...[...documents].flatMap(([id, { kind }]) => (kind === 'switch' ? [id] : []))];
  for (const id of ids) {
    const document = documents.get(id)!;
    const service = document.addressServices?.find((each) => each.vlan === vlan);
    if (service) return { id, name: document.device.name, service };
  }
  return relay ? { relay: relay.server } : null;
}

/** The lease, and whether the router answers at the address that comes with it. */
function* addressing(documents: Documents, routerId: string, vlan: number, facts: WalkFacts): Generator<WalkStep> {
  const router = documents.get(routerId)!;
  const { name } = router.device;
  const device: Decider = { kind: 'device', id: routerId, name };
  const server = serverOf(documents, routerId, vlan);
  if (!server) {
    yield stop('addresses', 'No address', `${name} gives no addresses on VLAN ${vlan}.`, device);
    return;
  }
  const face = interfacesOf(router).find((each) => each.vlan === vlan)!;
  const own = face.address.split('/')[0]!;
  if ('relay' in server) {
    const detail = `${name} passes the request on to ${server.relay}, which is not ours: what it gives is not known here.`;
    yield pass('addresses', `Asked at ${server.relay}`, detail, device);
    yield pass('gateway', `${own} answers`, `${name} holds it on VLAN ${vlan}.`, device);
    return;
  }
  const { service } = server;
  const by: Decider = { kind: 'segment', id: `${vlan}`, name: face.name };
  const address = firstFree(service, facts.taken);
  if (address === null) {
    yield stop('addresses', 'No address left', `All of ${service.first} to ${service.last} is taken.`, by);
    return;
  }
  const from = `${service.first} – ${service.last}`;
  const detail = `${server.name} leases it from ${from} for ${service.leaseSeconds / 3600} h.`;
  yield { ...pass('addresses', `Given ${address}`, detail, by), address };
  if (service.gateway === null) {
    yield stop('gateway', 'No route told', `The service tells no default route, so nothing leaves VLAN ${vlan}.`, by);
    return;
  }
  const answers = own === service.gateway && contains(parsePrefix(face.address)!, parseIp(address)!);
  yield answers
    ? pass('gateway', `${own} answers`, `${name} holds it on VLAN ${vlan}.`, device)
    : stop('gateway', `${service.gateway} does not answer`, `${name} holds ${face.address} on VLAN ${vlan}.`, device);
}

/** From a gateway to the internet. */
function* outward(gateway: GatewayDocument, id: string, facts: WalkFacts, inside: string): Generator<WalkStep> {
  const { name } = gateway.device;
  const uplink = gateway.uplinks.find((each) => facts.uplinks.get(`${id} ${each.port}`)?.up);
  const first = gateway.uplinks[0]?.port ?? 'wan';
  const out: Decider = { kind: 'uplink', id, name: `${name} ${uplink?.port ?? first}`, port: uplink?.port ?? first };
  if (!uplink) {
    yield stop('internet', 'No internet', `${name} reports no uplink that is up.`, out);
    return;
  }
  const outside = facts.uplinks.get(`${id} ${uplink.port}`)!.address;
  yield uplink.translate
    ? pass(
        'internet',
        'The internet answers',
        `${inside} leaves ${uplink.port} as ${outside ?? 'the provider’s address'}.`,
        out,
      )
    : stop(
        'internet',
        'No internet',
        `${uplink.port} does not translate ${inside}; nobody outside can answer it.`,
        out,
      );
}

/** The lowest address that a service gives to anybody and that is not taken, or null. */
function firstFree(service: AddressServiceDocument, taken: ReadonlySet<string>): string | null {
  const range = ({ first, last }: SpanDocument): IpRange => ({
    version: 4,
    first: parseIp(first)!.value,
    last: parseIp(last)!.value,
  });
  const never = [
    ...(service.exclude ?? []),
    ...(service.reservations ?? []).map(({ address }) => ({ first: address, last: address })),
  ].map(range);
  for (const span of [service, ...(service.also ?? [])])
    for (const left of subtractRanges(range(span), never))
      for (let value = left.first; value <= left.last; value++) {
        const text = formatIp({ version: 4, value });
        if (!taken.has(text)) return text;
      }
  return null;
}

const apDecider = (id: string, ap: { device: { name: string } } | undefined): Decider => ({
  kind: 'device',
  id,
  name: ap?.device.name ?? 'the AP',
});

function portDecider(documents: Documents, end: LinkEnd): Decider {
  const { name } = documents.get(end.deviceId)!.device;
  return { kind: 'port', id: end.deviceId, name: `${name} port ${end.port}`, port: end.port };
}
