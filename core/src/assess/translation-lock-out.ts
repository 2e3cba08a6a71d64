import { isUnanswered, parseIp, type IpRange } from '../address';
import { translator, type DeviceDocument, type GatewayDocument } from '../document';
import type { RosterDevice } from '../intent';
import type { Documents } from '../lattice';
import type { LockOut } from './lock-out';

/** Somebody on the internet (203.0.113.80, RFC 5737), where the controller’s own address is not known. */
const SOMEBODY = parseIp('203.0.113.80')!.value;

/**
 * Devices behind a gateway that would leave it as themselves, though they did not before: the controller’s answers would not find them.
 * @param controller where it answers.
 */
export function translationLockOuts(
  told: Readonly<Record<string, DeviceDocument>>,
  documents: Documents,
  roster: readonly RosterDevice[],
  controller: readonly IpRange[],
): LockOut[] {
  const outside = controller.filter(({ version, first }) => version === 4 && !isUnanswered({ version, value: first }));
  if (controller.length > 0 && outside.length === 0) return [];
  const destination = outside[0]?.first ?? SOMEBODY;
  return roster.flatMap(({ id, name }): LockOut[] => {
    const [before, after] = [told[id], documents.get(id)];
    if (before?.kind !== 'gateway' || after?.kind !== 'gateway' || !after.translations) return [];
    const [had, has] = [hiding(before, destination), hiding(after, destination)];
    // All devices of a VLAN are seen alike.
    const cut = new Map<number, readonly string[] | null>();
    const cutIn = (vlan: number): readonly string[] | null => {
      const source = sourceIn(after, vlan);
      if (source === null || !isUnanswered({ version: 4, value: source })) return null;
      const ports = has(source);
      return ports.length === after.uplinks.length && had(source).length < before.uplinks.length ? ports : null;
    };
    return roster.flatMap((device): LockOut[] => {
      const runs = told[device.id];
      if (!runs || runs.kind === 'gateway') return [];
      const { vlan } = runs.management;
      if (!cut.has(vlan)) cut.set(vlan, cutIn(vlan));
      const ports = cut.get(vlan);
      if (!ports) return [];
      const why = `It would leave ${name} by ${ports.join(', ')} with its own address, which nobody outside can answer. If nothing answers, ${name} goes back by itself.`;
      return [{ deviceId: device.id, name: device.name, packet: 'Whatever it sends to the controller', why }];
    });
  });
}

/** An address that somebody in a VLAN may have; null where the gateway is not there. */
function sourceIn({ interfaces }: GatewayDocument, vlan: number): bigint | null {
  const face = interfaces.find((each) => each.vlan === vlan);
  return parseIp(face?.address.split('/')[0] ?? '')?.value ?? null;
}

/** Tells the uplinks that an address leaves by as itself. */
function hiding({ uplinks, translations = [] }: GatewayDocument, destination: bigint): (source: bigint) => string[] {
  const as = translator(translations);
  return (source) => {
    const packet = { version: 4 as const, source, destination, protocol: 6, port: 443, sourcePort: 49_152 };
    return uplinks.filter((uplink) => as(uplink, packet) === 'itself').map(({ port }) => port);
  };
}
