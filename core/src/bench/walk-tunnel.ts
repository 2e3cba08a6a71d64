import { TUNNEL_OCTETS, type ApDocument, type ApTunnelDocument } from '../document';
import type { Documents, TunnelStrand, Untaken } from '../lattice';
import { pass, stop, type Decider, type WalkStep } from './walk-step';

/** The probe's frames go into packets to the gateway. */
export function intoTunnel(
  { device }: ApDocument,
  apId: string,
  { to, mtu }: ApTunnelDocument,
  vlan: number,
): WalkStep {
  const detail =
    `${device.name} puts each frame of VLAN ${vlan} into a packet to ${to} (GRE, key ${vlan}): ${TUNNEL_OCTETS} octets more. ` +
    `Packets of more than ${mtu} octets are parted. What is between sees only those.`;
  return pass('tunnel', `Into the tunnel to ${to}`, detail, { kind: 'device', id: apId, name: device.name });
}

/** Why a gateway takes no frames out, in words. */
export const UNTAKEN: Readonly<Record<Untaken, (at: { name: string; to: string; vlan: number }) => string>> = {
  address: ({ name, to }) => `${name} does not have ${to} in the VLAN that the packets come in.`,
  vlan: ({ name, vlan }) => `${name} takes no frames of VLAN ${vlan} out of tunnels.`,
  sender: ({ name }) => `${name} takes nothing from the address that this AP sends from.`,
};

/** Whether the gateway takes them out. @param silent whether it does not answer, as the AP reports. */
export function outOfTunnel(
  documents: Documents,
  strand: Extract<TunnelStrand, { state: 'whole' | 'untaken' }>,
  { to }: ApTunnelDocument,
  vlan: number,
  silent: boolean,
): WalkStep {
  const id = strand.state === 'whole' ? strand.gatewayId : strand.routerId;
  const { name } = documents.get(id)!.device;
  const by: Decider = { kind: 'device', id, name };
  if (strand.state === 'untaken')
    return stop('tunnel', 'The tunnel ends nowhere', UNTAKEN[strand.why]({ name, to, vlan }), by);
  if (silent) {
    const detail = `The AP hears nothing from ${to}. Until it does, nobody on this SSID gets any further here.`;
    return stop('tunnel', `${name} is silent`, detail, by);
  }
  return pass('tunnel', `Out of the tunnel at ${name}`, `${name} puts the frame into VLAN ${vlan}.`, by);
}
