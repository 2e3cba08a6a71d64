import { classOf, parseIp, type IpRange } from '../address';
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
  const outside = controller.filter(({ version, first }) => version === 4 && isSeen(first));
  if (controller.length > 0 && outside.length === 0) return [];
  const destination = outside[0]?.first ?? SOMEBODY;
  return roster.flatMap(({ id, name }): LockOut[] => {
    const [before, after] = [told[id], documents.get(id)];
    if (before?.kind !== 'gateway' || after?.kind !== 'gateway' || !after.translations) return [];
    return roster.flatMap((device): LockOut[] => {
      const runs = told[device.id];
      if (!runs || runs.kind === 'gateway') return [];
      const face = after.interfaces.find(({ vlan }) => vlan === runs.management.vlan);
      const source = parseIp(face?.address.split('/')[0] ?? '');
      if (!source || isSeen(source.value)) return [];
      const hidden = (document: GatewayDocument): string[] => hiddenAt(document, source.value, destination);
      const [had, has] = [hidden(before), hidden(after)];
      if (has.length < after.uplinks.length || had.length >= before.uplinks.length) return [];
      const why = `It would leave ${name} by ${has.join(', ')} with its own address, which nobody outside can answer. If nothing answers, ${name} goes back by itself.`;
      return [{ deviceId: device.id, name: device.name, packet: 'Whatever it sends to the controller', why }];
    });
  });
}

const isSeen = (value: bigint): boolean => classOf({ version: 4, value }) !== 'private';

/** The uplinks that an address leaves by as itself. */
function hiddenAt({ uplinks, translations = [] }: GatewayDocument, source: bigint, destination: bigint): string[] {
  const as = translator(translations);
  const packet = { version: 4 as const, source, destination, protocol: 6, port: 443, sourcePort: 49_152 };
  return uplinks.filter((uplink) => as(uplink, packet) === 'itself').map(({ port }) => port);
}
