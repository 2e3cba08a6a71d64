import { parseIp } from '../address';
import { toldWays } from '../assess';
import { farEndOfSsid, GRE, type ApTunnelDocument, type GatewayDocument } from '../document';
import { untakenAfar, type Documents } from '../lattice';
import type { Packet } from '../rules';
import { isPlugged, type AnyProbe, type WalkFacts } from './probe';
import { gatewayJudge, judgedTunnel, senderOf } from './walk-rules';
import { pass, stop, type Decider, type WalkStep } from './walk-step';
import { UNTAKEN } from './walk-tunnel';

/** The packets around a probe's frames that are carried to another site, and the address that they are for; null: they are not. */
export function carriedBy(
  documents: Documents,
  probe: AnyProbe,
): { readonly to: string; readonly packet: Packet } | null {
  if (isPlugged(probe)) return null;
  const ap = documents.get(probe.apId);
  const ssid = ap?.kind === 'ap' ? ap.ssids.find(({ id }) => id === probe.ssidId) : undefined;
  const [to, sender] = [ssid && farEndOfSsid(ssid), ap && senderOf(documents, probe.apId)];
  const destination = to ? parseIp(to) : null;
  if (!to || !sender || !destination) return null;
  const packet = { version: 4 as const, source: sender.value, destination: destination.value, protocol: GRE };
  return { to, packet };
}

/** From an AP's own gateway through tunnels between sites to the gateway that takes its frames out. */
export function* acrossSites(
  { documents, apId, moment }: { readonly documents: Documents; readonly apId: string; readonly moment: number },
  nearId: string,
  { to }: ApTunnelDocument,
  vlan: number,
  { landing, silent = false }: Pick<WalkFacts, 'landing' | 'silent'>,
): Generator<WalkStep> {
  const near = documents.get(nearId) as GatewayDocument;
  const by: Decider = { kind: 'device', id: nearId, name: near.device.name };
  const way = near.kind === 'gateway' ? toldWays(near)(parseIp(to)!) : null;
  if (way?.kind !== 'overlay' || way.line.peer === null) {
    const detail = `${near.device.name} leads ${to} into no tunnel to another site.`;
    yield stop('tunnel', 'The tunnel ends nowhere', detail, by);
    return;
  }
  const { prefix, peer } = way.line;
  yield pass('tunnel', `Inside the tunnel to ${peer}`, `${prefix} is of joined sites.`, by);
  if (!landing) {
    yield stop('tunnel', 'The tunnel ends nowhere', `Nobody knows whose ${to} is.`, by);
    return;
  }
  for (const step of landing.way) yield { ...(step.passed ? pass : stop)('tunnel', step.title, step.detail, by) };
  const { name, gatewayId } = landing;
  const far = gatewayId === null ? undefined : landing.documents.get(gatewayId);
  if (far?.kind !== 'gateway') {
    yield stop('tunnel', 'The tunnel ends nowhere', `${name} has no gateway that would take the frames out.`, by);
    return;
  }
  const there: Decider = { kind: 'device', id: gatewayId!, name: far.device.name };
  const sender = senderOf(documents, apId);
  yield* judgedTunnel([gatewayJudge(landing.documents, gatewayId!)], { sender, to, moment });
  const why = untakenAfar(far, { sender, to, vlan });
  if (why) {
    yield stop('tunnel', 'The tunnel ends nowhere', UNTAKEN[why]({ name: far.device.name, to, vlan }), there);
    return;
  }
  if (silent) {
    const detail = `The AP hears nothing from ${to}. Until it does, nobody on this SSID gets any further here.`;
    yield stop('tunnel', `${far.device.name} is silent`, detail, there);
    return;
  }
  const detail = `${far.device.name} puts the frame into VLAN ${vlan} of ${name}.`;
  yield pass('tunnel', `Out of the tunnel at ${far.device.name}`, detail, there);
}
