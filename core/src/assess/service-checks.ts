import { contains, parseIp, parsePrefix, parseVlanList } from '../address';
import { vlansOfSsid } from '../document';
import { sheetFor } from '../hardware';
import { servedFrom, type AddressService, type Operation, type Segment } from '../intent';
import { proposeAddresses, traceStrand } from '../lattice';
import { nameIn, type Check, type CheckContext, type UplinkAddress } from './check';
import type { Finding, Mend } from './finding';
import { hiddenAps } from './wiring-checks';

/** The edit that changes what a segment's clients are given. */
function setAddresses(context: CheckContext, segment: Segment, addresses: AddressService, label: string): Mend {
  const operation: Operation = {
    type: 'segment.set',
    siteId: context.site.id,
    segmentId: segment.id,
    from: { addresses: segment.addresses },
    to: { addresses },
  };
  return { label, operations: [operation] };
}

const gatewayName = (context: CheckContext): string | null =>
  context.roster.find((device) => context.documents.get(device.id)?.kind === 'gateway')?.name ?? null;

/** Serves a segment from the site's gateway. */
function fromGateway(context: CheckContext, segment: Segment): Mend | null {
  const quiet = context.site.quiet.find(({ id }) => id === segment.id);
  if (quiet) {
    const { off: _off, ...addresses } = quiet.addresses!;
    return setAddresses(context, quiet, addresses, 'switch its addresses on');
  }
  const name = gatewayName(context);
  const { from: _from, ...addresses } = segment.addresses ?? {};
  const subnet = parsePrefix(segment.subnet);
  const gateway = parseIp(segment.gateway);
  const proposed = subnet && gateway && proposeAddresses(subnet, gateway);
  if (name === null || !proposed) return null;
  return setAddresses(context, segment, { ...proposed, ...addresses }, `serve from ${name}`);
}

/** A segment whose clients get no addresses. */
export const noAddresses: Check = (context) =>
  context.site.segments
    .filter((segment) => segment.addresses === null)
    .map((segment) => ({
      key: `lattice.no-addresses ${segment.id}`,
      code: 'lattice.no-addresses',
      severity: 'warning',
      message: `${segment.name} gives no addresses`,
      reason: context.site.quiet.some(({ id }) => id === segment.id)
        ? `Its address service is switched off; clients on VLAN ${segment.vlan} need fixed addresses until it is on.`
        : `No service answers on VLAN ${segment.vlan}; clients need fixed addresses there.`,
      place: { siteId: context.site.id, kind: 'segment', id: segment.id },
      mend: fromGateway(context, segment),
    }));

/** Where a segment's addresses are to be given, and cannot be. */
export const misplacedService: Check = (context) => {
  const hidden = hiddenAps(context);
  return context.site.segments.flatMap((segment): Finding[] => {
    if (!segment.addresses) return [];
    const problem = placeProblem(context, segment, segment.addresses, hidden);
    if (!problem) return [];
    return [
      {
        key: `${problem.code} ${segment.id}`,
        code: problem.code,
        severity: 'error',
        message: `${segment.name} cannot be given addresses ${problem.where}`,
        reason: problem.reason,
        place: { siteId: context.site.id, kind: 'segment', id: segment.id },
        mend: fromGateway(context, segment),
      },
    ];
  });
};

function placeProblem(
  context: CheckContext,
  segment: Segment,
  addresses: AddressService,
  hidden: readonly { readonly id: string; readonly behind: string }[],
): { readonly code: string; readonly where: string; readonly reason: string } | null {
  const from = servedFrom(addresses);
  if (from.kind === 'switch') {
    if (context.documents.get(from.deviceId)?.kind === 'switch') return null;
    const reason = 'The switch that is to give them is no longer at the site.';
    return { code: 'lattice.server-gone', where: 'by a switch', reason };
  }
  if (from.kind === 'relay') return relayProblem(context, from.server);
  if (from.kind !== 'ap') return null;
  const where = 'by APs';
  if (segment.id === context.site.managementId) {
    const reason = 'APs live in this segment themselves: they would have to give themselves the address they ask for.';
    return { code: 'lattice.server-inside', where, reason };
  }
  const [mesh] = hidden;
  if (mesh) {
    const reason = `${nameIn(context, mesh.id)} hangs behind ${nameIn(context, mesh.behind)}; with APs behind APs, clients would be translated twice and two services would answer.`;
    return { code: 'lattice.mesh-serves', where, reason };
  }
  const lost = from.deviceIds.find((id) => context.documents.get(id)?.kind !== 'ap');
  if (lost !== undefined)
    return { code: 'lattice.server-gone', where, reason: 'An AP that is to give them is no longer at the site.' };
  const wired = context.roster.find((device) => {
    const document = context.documents.get(device.id);
    return document?.kind === 'switch' && document.ports.some((port) => port.untagged === segment.vlan);
  });
  if (from.how === 'each' && wired) {
    const reason = `${wired.name} hands the segment out on ports, where no AP gives addresses. Each AP serves its own clients only.`;
    return { code: 'lattice.ap-each-wired', where, reason };
  }
  return null;
}

/** A relay asks its server by routing: it must be in a segment the gateway routes, or outside private space. */
function relayProblem(context: CheckContext, text: string): ReturnType<typeof placeProblem> {
  const server = parseIp(text);
  if (!server) return null;
  const near = context.site.segments.some((segment) => {
    const subnet = parsePrefix(segment.subnet);
    return subnet !== null && contains(subnet, server);
  });
  const inside = ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', 'fc00::/7'].some((block) =>
    contains(parsePrefix(block)!, server),
  );
  if (near || !inside) return null;
  const reason = `The gateway has no route to ${text}: it lies in no segment of ${context.site.name}.`;
  return { code: 'lattice.relay-lost', where: `by ${text}`, reason };
}

/** A pool that takes in a VLAN the site does not have, or whose clients would get no addresses. */
export const poolMembers: Check = (context) =>
  (context.site.pools ?? []).flatMap((pool): Finding[] => {
    const list = parseVlanList(pool.vlans);
    if (!list.ok) return [];
    const place = { siteId: context.site.id, kind: 'pool' as const, id: pool.id };
    const off = new Set(context.site.off.map(({ vlan }) => vlan));
    const lost = list.ids.filter((vlan) => !context.vlans.has(vlan) && !off.has(vlan));
    const findings: Finding[] = [];
    if (lost.length > 0) {
      const kept = list.ids.filter((vlan) => !lost.includes(vlan)).join(',');
      findings.push({
        key: `lattice.pool-unknown ${pool.id}`,
        code: 'lattice.pool-unknown',
        severity: 'warning',
        message: `The pool ${pool.name} names ${lost.length === 1 ? `VLAN ${lost[0]}` : `${lost.length} VLANs`} the site does not have`,
        reason: `No segment has VLAN ID ${lost.slice(0, 6).join(', ')}${lost.length > 6 ? ' …' : ''}; no client is put there.`,
        place,
        mend:
          kept === ''
            ? null
            : {
                label: `leave ${lost.length === 1 ? 'it' : 'them'} out of the pool`,
                operations: [
                  {
                    type: 'pool.set',
                    siteId: context.site.id,
                    poolId: pool.id,
                    from: { vlans: pool.vlans },
                    to: { vlans: kept },
                  },
                ],
              },
      });
    }
    for (const vlan of list.ids) {
      const segment = context.vlans.get(vlan);
      if (!segment || segment.addresses) continue;
      findings.push({
        key: `lattice.pool-no-addresses ${pool.id} ${segment.id}`,
        code: 'lattice.pool-no-addresses',
        severity: 'error',
        message: `Clients that ${pool.name} puts into ${segment.name} get no address`,
        reason: `One in ${list.ids.length} clients lands in VLAN ${vlan}, where no service answers.`,
        place,
        mend: fromGateway(context, segment),
      });
    }
    return findings;
  });

/** Addresses of uplinks: as they are given now, and as they are said. */
function addressesOutside({ uplinks, documents }: CheckContext): readonly UplinkAddress[] {
  const said = [...documents].flatMap(([deviceId, document]) =>
    document.kind === 'gateway'
      ? document.uplinks.flatMap(({ port, fixed }) =>
          fixed ? [{ deviceId, port, address: fixed.address.split('/')[0]! }] : [],
        )
      : [],
  );
  const isSaid = ({ deviceId, port }: UplinkAddress): boolean =>
    said.some((each) => each.deviceId === deviceId && each.port === port);
  return [...said, ...uplinks.filter((each) => !isSaid(each))];
}

/** A subnet that holds an address a provider gave an uplink: the gateway could not tell inside from outside. */
export const uplinkOverlap: Check = (context) =>
  context.site.segments.flatMap((segment) => {
    const subnet = parsePrefix(segment.subnet);
    return addressesOutside(context).flatMap(({ deviceId, port, address }): Finding[] => {
      const ip = parseIp(address);
      if (!subnet || !ip || !contains(subnet, ip)) return [];
      return [
        {
          key: `lattice.uplink-overlap ${segment.id} ${deviceId} ${port}`,
          code: 'lattice.uplink-overlap',
          severity: 'error',
          message: `${segment.name} overlaps the uplink ${port} of ${nameIn(context, deviceId)}`,
          reason: `It has ${address}, which lies in ${segment.subnet}: answers from outside would look like inside. Give the segment another subnet.`,
          place: { siteId: context.site.id, kind: 'segment', id: segment.id },
          mend: null,
        },
      ];
    });
  });

/**
 * Free ports that hand out the segment of the devices, where that is VLAN 1, what every box speaks out of the carton.
 * A port that was given a duty is so on purpose.
 */
export const exposedManagement: Check = (context) => {
  const { site, documents, roster, cabled } = context;
  if (site.management.vlan !== 1) return [];
  const free = roster.flatMap((device) => {
    const document = documents.get(device.id);
    if (document?.kind !== 'switch') return [];
    const edges = new Set(sheetFor(device).ports.flatMap((port) => (port.role === 'edge' ? [port.name] : [])));
    return document.ports
      .filter(({ name, untagged }) => untagged === site.management.vlan && edges.has(name))
      .filter(({ name }) => !cabled.has(`${device.id} ${name}`) && !site.ports[device.id]?.[name]?.dutyId)
      .map((port) => ({ device, port: port.name }));
  });
  if (free.length === 0) return [];
  const some = new Set(free.map(({ device }) => device.name));
  const operations = free.map(({ device, port }): Operation => {
    const at = { siteId: site.id, deviceId: device.id, port };
    return { type: 'port.untagged', ...at, from: site.managementId, to: null };
  });
  const ports = free.length === 1 ? '1 free port' : `${free.length} free ports`;
  return [
    {
      key: 'lattice.management-exposed',
      code: 'lattice.management-exposed',
      severity: 'warning',
      message: `${ports} of ${[...some].slice(0, 2).join(', ')}${some.size > 2 ? ' …' : ''} hand out ${site.management.name}`,
      reason:
        'It is VLAN 1, which every box speaks without being told: whoever plugs in there is among the devices themselves. Closed ports can be opened again one by one.',
      place: { siteId: site.id, kind: 'segment', id: site.managementId },
      mend: { label: `close ${free.length === 1 ? 'it' : 'them'}`, operations },
    },
  ];
};

/** More VLANs on a device than its hardware holds. */
export const tooManyVlans: Check = (context) =>
  context.roster.flatMap((device): Finding[] => {
    const most = sheetFor(device).vlans;
    const document = context.documents.get(device.id);
    if (most === undefined || !document || context.site.segments.length <= most) return [];
    const vlans = new Set(
      document.ports.flatMap((port) => [...(port.untagged === null ? [] : [port.untagged]), ...port.tagged]),
    );
    if (vlans.size <= most) return [];
    const trunks = document.ports.filter((port) => port.tagged.length > most).map((port) => port.name);
    return [
      {
        key: `lattice.too-many-vlans ${device.id}`,
        code: 'lattice.too-many-vlans',
        severity: 'error',
        message: `${device.name} cannot hold ${vlans.size} VLANs`,
        reason: `${sheetFor(device).title} holds ${most}. ${trunks.length > 0 ? `List the segments of port ${trunks.slice(0, 3).join(', ')} instead of carrying all.` : 'Take segments off its ports.'}`,
        place: { siteId: context.site.id, kind: 'device', id: device.id },
        mend: null,
      },
    ];
  });

/** A switch that gives addresses in a segment it is not joined to. */
export const unreachableServer: Check = (context) =>
  context.site.segments.flatMap((segment): Finding[] => {
    const from = segment.addresses && servedFrom(segment.addresses);
    if (from?.kind !== 'ap' || from.how === 'each') return [];
    return context.roster.flatMap((device): Finding[] => {
      const document = context.documents.get(device.id);
      if (document?.kind !== 'ap' || !document.ssids.some((ssid) => vlansOfSsid(ssid, document).includes(segment.vlan)))
        return [];
      if (traceStrand(context.documents, context.links, device.id, segment.vlan).state !== 'no-way') return [];
      return [
        {
          key: `lattice.server-apart ${segment.id} ${device.id}`,
          code: 'lattice.server-apart',
          severity: 'error',
          message: `${device.name} has no way to the AP that serves ${segment.name}`,
          reason: 'No chain of reported cables joins the two.',
          place: { siteId: context.site.id, kind: 'device', id: device.id },
          mend: null,
        },
      ];
    });
  });
