import { sameValue } from '../base';
import type { DeviceDocument, UplinkDocument } from '../document';
import type { RosterDevice } from '../intent';
import type { Documents } from '../lattice';
import type { UplinkAddress } from './check';
import type { LockOut } from './lock-out';

/** How an uplink comes to its address: with another way it may come to none. */
const wayOf = ({ port, method, fixed, login, apn, vlan, mac, translate }: UplinkDocument): object => ({
  ...{ port, method, translate, fixed: fixed ?? null, login: login ?? null, apn: apn ?? null },
  ...{ vlan: vlan ?? null, mac: mac ?? null },
});

/**
 * Gateways of which no uplink that has an address now comes to it as before: what is behind them may not reach the controller any more.
 * @param told what each runs today. @param up uplinks that have an address now; of a gateway without any, all that it was told count.
 */
export function uplinkLockOuts(
  told: Readonly<Record<string, DeviceDocument>>,
  documents: Documents,
  roster: readonly RosterDevice[],
  up: readonly UplinkAddress[],
): LockOut[] {
  return roster.flatMap(({ id, name }): LockOut[] => {
    const [before, after] = [told[id], documents.get(id)];
    if (before?.kind !== 'gateway' || after?.kind !== 'gateway') return [];
    if (sameValue(before.uplinks, after.uplinks)) return [];
    const here = new Set(up.flatMap(({ deviceId, port }) => (deviceId === id ? [port] : [])));
    const had = before.uplinks.filter(({ port }) => here.size === 0 || here.has(port));
    if (had.length === 0) return [];
    const stays = had.some((old) => {
      const now = after.uplinks.find(({ port }) => port === old.port);
      return now !== undefined && sameValue(wayOf(old), wayOf(now));
    });
    if (stays) return [];
    const ports = had.map(({ port }) => port).join(', ');
    const gone = had.every(({ port }) => !after.uplinks.some((each) => each.port === port));
    const what = gone ? `${ports} would be no uplink any more` : `${ports} would come to an address in another way`;
    const why = `${what}, and no other uplink has an address now. If nothing answers, ${name} goes back by itself.`;
    return [{ deviceId: id, name, packet: 'Whatever leaves the site', why }];
  });
}
