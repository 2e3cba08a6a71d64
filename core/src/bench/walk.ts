import { contains, formatIp, parseIp, parsePrefix } from '../address';
import type { ApDocument, GatewayDocument, SsidDocument } from '../document';
import type { Link, LinkEnd } from '../intent';
import { traceStrand, type Documents, type Hop } from '../lattice';
import type { Probe, WalkFacts } from './probe';
import type { Decider, Walk, WalkStep } from './walk-step';

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
  yield associate(ap, ssid, probe);
  yield authenticate(ssid!, probe);
  const segment: Decider = { kind: 'ssid', id: ssid!.id, name: ssid!.name };
  yield pass('vlan', `VLAN ${ssid!.vlan}`, `“${ssid!.name}” puts its clients into VLAN ${ssid!.vlan}.`, segment);

  const strand = traceStrand(documents, links, probe.apId, ssid!.vlan);
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
  const gateway = documents.get(strand.gatewayId) as GatewayDocument;
  yield* beyondGateway(gateway, strand.gatewayId, strand.vlan, facts);
}

function associate(ap: ApDocument, ssid: SsidDocument | undefined, probe: Probe): WalkStep {
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
  return pass('associate', `Associated with ${ap.device.name}`, `“${ssid.name}” on ${probe.band} GHz.`, by);
}

function authenticate(ssid: SsidDocument, probe: Probe): WalkStep {
  const by: Decider = { kind: 'ssid', id: ssid.id, name: ssid.name };
  // 6 GHz has no transition mode: WPA3 alone there (IEEE 802.11-2024 §12.12.2).
  const method =
    ssid.security === 'wpa2-psk'
      ? 'WPA2'
      : ssid.security === 'wpa3-sae' || probe.band === '6'
        ? 'WPA3'
        : 'WPA2 or WPA3';
  if (!probe.knowsPassphrase)
    return stop('authenticate', 'Refused', `The passphrase is not that of “${ssid.name}” (${method}).`, by);
  return pass('authenticate', 'Authenticated', `The passphrase is right (${method}).`, by);
}

function crossing(documents: Documents, hop: Hop): WalkStep {
  const name = (end: LinkEnd): string => `${documents.get(end.deviceId)!.device.name} port ${end.port}`;
  const tag = hop.tag === null ? 'untagged' : `tag ${hop.tag}`;
  const detail = `From ${name(hop.from)}, ${tag}; in VLAN ${hop.vlan} from here on.`;
  const step = pass('link', `${name(hop.to)}, ${tag}`, detail, portDecider(documents, hop.to));
  return { ...step, tag: hop.tag };
}

function* beyondGateway(gateway: GatewayDocument, id: string, vlan: number, facts: WalkFacts): Generator<WalkStep> {
  const { name } = gateway.device;
  const device: Decider = { kind: 'device', id, name };
  const service = gateway.addressServices.find((each) => each.vlan === vlan);
  if (!service) {
    yield stop('addresses', 'No address', `${name} gives no addresses on VLAN ${vlan}.`, device);
    return;
  }
  const face = gateway.interfaces.find((each) => each.vlan === vlan)!;
  const by: Decider = { kind: 'segment', id: `${vlan}`, name: face.name };
  const address = firstFree(service.first, service.last, facts.taken);
  if (address === null) {
    yield stop('addresses', 'No address left', `All of ${service.first} to ${service.last} is taken.`, by);
    return;
  }
  yield {
    ...pass(
      'addresses',
      `Given ${address}`,
      `${name} leases it from ${service.first} – ${service.last} for ${service.leaseSeconds / 3600} h.`,
      by,
    ),
    address,
  };

  const [own, length] = face.address.split('/') as [string, string];
  const subnet = parsePrefix(`${own}/${length}`)!;
  const answers = own === service.gateway && contains(subnet, parseIp(address)!);
  yield answers
    ? pass('gateway', `${own} answers`, `${name} holds it on VLAN ${vlan}.`, device)
    : stop('gateway', `${service.gateway} does not answer`, `${name} holds ${face.address} on VLAN ${vlan}.`, device);

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
        `${address} leaves ${uplink.port} as ${outside ?? 'the provider’s address'}.`,
        out,
      )
    : stop(
        'internet',
        'No internet',
        `${uplink.port} does not translate ${address}; nobody outside can answer it.`,
        out,
      );
}

/** The lowest address of a range that is not taken, or null. */
function firstFree(first: string, last: string, taken: ReadonlySet<string>): string | null {
  const end = parseIp(last)!.value;
  const { version, value } = parseIp(first)!;
  for (let at = value; at <= end; at++) {
    const text = formatIp({ version, value: at });
    if (!taken.has(text)) return text;
  }
  return null;
}

const pass = (kind: WalkStep['kind'], title: string, detail: string, decidedBy: Decider): WalkStep => ({
  kind,
  passed: true,
  title,
  detail,
  decidedBy,
});
const stop = (kind: WalkStep['kind'], title: string, detail: string, decidedBy: Decider): WalkStep => ({
  ...pass(kind, title, detail, decidedBy),
  passed: false,
});

const apDecider = (id: string, ap: { device: { name: string } } | undefined): Decider => ({
  kind: 'device',
  id,
  name: ap?.device.name ?? 'the AP',
});

function portDecider(documents: Documents, end: LinkEnd): Decider {
  const { name } = documents.get(end.deviceId)!.device;
  return { kind: 'port', id: end.deviceId, name: `${name} port ${end.port}`, port: end.port };
}
