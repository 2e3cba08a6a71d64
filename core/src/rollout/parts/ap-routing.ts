import { askedVlans, cabledVlansOfSsid } from '../../document';
import { sheetFor } from '../../hardware';
import { servedFrom } from '../../intent';
import { ascending, interfaceOf, staysInAp } from '../facts';
import { part, type Told } from '../part';
import { fact } from '../reads';
import { serviceOf } from './service-documents';

/** Segments that APs route, with who does. */
const routedByAps = fact({ site: ['segments'] }, ({ segments }) =>
  segments.flatMap((segment) => {
    const from = segment.addresses && servedFrom(segment.addresses);
    return from?.kind === 'ap' ? [{ segment, from }] : [];
  }),
);

/** The VLANs that something an AP is told puts clients into, but for those in its tunnel. */
const sentBy = ({ ports = [], ssids = [], classes = [] }: Pick<Told, 'ports' | 'ssids' | 'classes'>): Set<number> =>
  new Set([
    ...ssids.flatMap((ssid) => cabledVlansOfSsid(ssid, { classes })),
    ...ports.flatMap((port) => askedVlans(port, { classes })),
    ...ports.flatMap(({ untagged, tagged }) => [untagged ?? 0, ...tagged]),
  ]);

/**
 * The segments an AP routes itself and gives addresses in, and its own port: the VLAN it lives in, and the tags of what it
 * sends and does not keep to itself.
 */
export const apRouting = part({
  name: 'routing of APs',
  kinds: ['ap'],
  reads: {
    site: ['management'],
    facts: { routed: routedByAps },
    device: ['id', 'model', 'sheet'],
    before: ['ports', 'ssids', 'classes'],
  },
  tells: ({ management: { vlan: home }, routed }, device, before) => {
    const sent = sentBy(before);
    const own = routed
      .filter(({ segment, from }) =>
        from.how === 'each' ? sent.has(segment.vlan) : from.deviceIds.includes(device.id),
      )
      .map(({ segment }) => segment);
    const kept = new Set(own.filter(staysInAp).map(({ vlan }) => vlan));
    const carried = [...sent, ...own.map(({ vlan }) => vlan)].filter((vlan) => vlan !== home && vlan !== 0);
    const tagged = ascending(carried.filter((vlan) => !kept.has(vlan)));
    const { name } = sheetFor(device).ports[0]!;
    return {
      ports: [{ name, untagged: home, tagged }, ...(before.ports ?? [])],
      ...(own.length > 0
        ? { interfaces: own.map(interfaceOf), addressServices: own.map((each) => serviceOf(each)) }
        : {}),
    };
  },
});
