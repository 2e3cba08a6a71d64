import { fallbacksOf, type PortDocument } from '../document';
import type { KeptGuarantee, ResolvedSite, Segment } from '../intent';
import type { Documents } from '../lattice';
import type { RuleEnd } from '../rules';
import { nameIn, type Check } from './check';
import type { Finding } from './finding';
import { proveGuarantee } from './guarantee-results';
import type { PolicyView } from './policy-view';

/** A segment that ports put guests of a portal into. */
export interface GuestSegment {
  readonly portal: { readonly id: string; readonly name: string };
  readonly segment: Segment;
  readonly ports: readonly { readonly deviceId: string; readonly port: string }[];
}

/** Where a port puts whom nobody knows: into its own segment, or where it asks into those for such. */
const landsIn = (port: PortDocument): readonly number[] =>
  port.auth === undefined ? (port.untagged === null ? [] : [port.untagged]) : fallbacksOf(port);

/** The segments of a site that guests come to by cable, each once for a portal. */
export function guestSegments({ segments }: Pick<ResolvedSite, 'segments'>, documents: Documents): GuestSegment[] {
  const found = new Map<string, GuestSegment>();
  for (const [deviceId, { ports }] of documents)
    for (const port of ports) {
      const { portal, name } = port;
      for (const vlan of portal ? landsIn(port) : []) {
        const segment = segments.find((each) => each.vlan === vlan);
        if (!portal || !segment) continue;
        const key = `${portal.id} ${vlan}`;
        const at = [...(found.get(key)?.ports ?? []), { deviceId, port: name }];
        found.set(key, { portal, segment, ports: at });
      }
    }
  return [...found.values()];
}

/** Ports that lead guests to a portal, and where a device of ours hangs: it is no guest. */
export const portalAtDevice: Check = (context) => {
  const { site, roster, documents, cabled } = context;
  return roster.flatMap((device) =>
    (documents.get(device.id)?.ports ?? []).flatMap(({ name: port, portal }): Finding[] => {
      if (!portal || !cabled.has(`${device.id} ${port}`)) return [];
      const from = site.ports[device.id]?.[port] ?? null;
      const at = { siteId: site.id, deviceId: device.id, port };
      return [
        {
          ...{ key: `guests.port-taken ${device.id} ${port}`, code: 'guests.port-taken', severity: 'warning' },
          message: `“${portal.name}” holds nobody at port ${port} of ${nameIn(context, device.id)}`,
          reason: 'A device of ours hangs there, which is no guest; what hangs behind it is held by its own ports.',
          place: { siteId: site.id, kind: 'port', id: device.id, port },
          mend: {
            label: 'lead nobody to a portal there',
            operations: [{ type: 'port.set', ...at, from, to: { ...from, portal: null } }],
          },
        },
      ];
    }),
  );
};

/** Segments whose guests by cable reach private space once they are let in, but for what the gateway itself answers. */
export function openPorts(site: ResolvedSite, documents: Documents, view: PolicyView): Finding[] {
  return guestSegments(site, documents).flatMap(({ portal, segment, ports }): Finding[] => {
    const from: RuleEnd = { kind: 'segment', name: segment.name };
    const never: KeptGuarantee = {
      ...{ id: `${portal.id} ${segment.id}`, kind: 'never', services: [{ protocol: 'any' }] },
      ...{ from: [from], to: [{ kind: 'private' }], besides: [{ kind: 'gateway' }, from] },
    };
    const { state, packet, why } = proveGuarantee(never, false, site, view);
    if (state !== 'broken') return [];
    const [first] = ports;
    return [
      {
        ...{ key: `guests.reach-private ${never.id}`, code: 'guests.reach-private', severity: 'warning' },
        message: `Guests by cable who are let in to ${segment.name} reach private space`,
        reason: `“${portal.name}” lets them in at port ${first!.port}${ports.length > 1 ? ` and ${ports.length - 1} more` : ''}. ${packet}. ${why}`,
        place: { siteId: site.id, kind: 'port', id: first!.deviceId, port: first!.port },
        mend: segment.isolation?.segments
          ? null
          : {
              label: `keep ${segment.name} from other segments, whoever is in it`,
              operations: [
                {
                  ...{ type: 'segment.set', siteId: site.id, segmentId: segment.id },
                  from: { isolation: segment.isolation ?? null },
                  to: { isolation: { ...segment.isolation, segments: true } },
                },
              ],
            },
      },
    ];
  });
}
