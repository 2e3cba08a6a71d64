import type { CapDocument, CapsDocument, SsidDocument, VlanCapsDocument } from '../../document';
import { plainSegmentsOfSsid } from '../../intent';
import { capDocument } from '../cap-document';
import { capPlaces } from '../cap-places';
import { ascending, holdersOf, segmentsById } from '../facts';
import { part } from '../part';
import { fact } from '../reads';
import { routedByGateway } from './routing';

function capsDocument(client: CapDocument | undefined, all: CapDocument | undefined): CapsDocument | undefined {
  return client || all ? { ...(client ? { client } : {}), ...(all ? { all } : {}) } : undefined;
}

/** Caps that APs hold, by the SSID's id. */
const airedCaps = fact(
  { site: ['ssids'], facts: { places: capPlaces } },
  ({ ssids, places }): Readonly<Record<string, CapsDocument>> =>
    Object.fromEntries(
      ssids.flatMap(({ id, caps }) => {
        const { at, aps } = places.get(id)!;
        const whole = at === 'gateway' ? undefined : capDocument(caps?.all, caps?.burst, Math.max(1, aps));
        const told = capsDocument(capDocument(caps?.client, caps?.burst), whole);
        return told ? [[id, told]] : [];
      }),
    ),
  { settles: true },
);

/** What clients of SSIDs may take of an AP. */
export const apCaps = part({
  name: 'caps of APs',
  kinds: ['ap'],
  reads: { facts: { aired: airedCaps }, device: [], before: ['ssids'] },
  tells: ({ aired }, _device, { ssids = [] }) =>
    ssids.some(({ id }) => aired[id])
      ? { ssids: ssids.map((ssid): SsidDocument => (aired[ssid.id] ? { ...ssid, caps: aired[ssid.id]! } : ssid)) }
      : {},
});

/** Caps that the gateway holds: of segments, and of SSIDs that have theirs for themselves. */
const routedCaps = fact(
  { site: ['ssids'], facts: { places: capPlaces, routed: routedByGateway, byId: segmentsById } },
  ({ ssids, places, routed, byId }): readonly VlanCapsDocument[] => [
    ...routed.flatMap(({ name, vlan, caps }) => {
      const told = capsDocument(capDocument(caps?.client, caps?.burst), capDocument(caps?.all, caps?.burst));
      return told ? [{ name: `segment ${name}`, vlans: [vlan], ...told }] : [];
    }),
    ...ssids.flatMap((ssid) => {
      const { name, caps } = ssid;
      const all = places.get(ssid.id)!.at === 'gateway' ? capDocument(caps?.all, caps?.burst) : undefined;
      const vlans = ascending(plainSegmentsOfSsid(ssid).flatMap((id) => byId.get(id)?.vlan ?? []));
      return all ? [{ name: `SSID ${name}`, vlans, all }] : [];
    }),
  ],
  { settles: true },
);

/** What clients may take of the way through the gateway. */
export const gatewayCaps = part({
  name: 'caps of the gateway',
  kinds: ['gateway'],
  reads: { facts: { holders: holdersOf, caps: routedCaps }, device: ['id'] },
  tells: ({ holders, caps }, { id }) => (holders.includes(id) && caps.length > 0 ? { caps } : {}),
});
