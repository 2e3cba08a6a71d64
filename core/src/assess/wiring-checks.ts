import type { PortDocument } from '../document';
import { portSetting, type Link, type LinkEnd, type Operation } from '../intent';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend, FindingPlace } from './finding';

const placeAt = (context: CheckContext, end: LinkEnd): FindingPlace => ({
  siteId: context.site.id,
  kind: 'port',
  id: end.deviceId,
  port: end.port,
});
const sayEnd = (context: CheckContext, end: LinkEnd): string => `${nameIn(context, end.deviceId)} port ${end.port}`;
const portOf = (context: CheckContext, end: LinkEnd): PortDocument | undefined =>
  context.cabled.get(`${end.deviceId} ${end.port}`);

/** Cables between the same two devices; ends sorted so that the same device comes first. */
function bundlesOf(links: readonly Link[]): Link[][] {
  const bundles = new Map<string, Link[]>();
  for (const link of links) {
    if (link.a.deviceId === link.b.deviceId) continue;
    const turned = link.a.deviceId < link.b.deviceId ? link : { ...link, a: link.b, b: link.a };
    const key = `${turned.a.deviceId} ${turned.b.deviceId}`;
    bundles.set(key, [...(bundles.get(key) ?? []), turned]);
  }
  return [...bundles.values()];
}

/** Cables side by side: fine when both ends take them as one, a loop when they do not. */
export const parallelCables: Check = (context) =>
  bundlesOf(context.links)
    .filter((bundle) => bundle.length > 1)
    .flatMap((bundle): Finding[] => {
      const ends = bundle.flatMap(({ a, b }) => [a, b]);
      const groups = [bundle.map(({ a }) => groupAt(context, a)), bundle.map(({ b }) => groupAt(context, b))];
      const asOne = groups.map((side) => side[0] !== null && side.every((group) => group === side[0]));
      if (asOne[0] && asOne[1]) return unlikeInGroup(context, bundle);
      const [first] = bundle;
      const names = `${nameIn(context, first!.a.deviceId)} and ${nameIn(context, first!.b.deviceId)}`;
      const half = asOne[0] !== asOne[1];
      const lone = asOne[0] ? first!.b : first!.a;
      return [
        {
          key: `lattice.${half ? 'half-group' : 'loop'} ${ends.map((end) => `${end.deviceId}:${end.port}`).join(' ')}`,
          code: half ? 'lattice.half-group' : 'lattice.loop',
          severity: 'error',
          message: half
            ? `${nameIn(context, lone.deviceId)} does not take its cables to ${nameIn(context, asOne[0] ? first!.a.deviceId : first!.b.deviceId)} as one`
            : `${bundle.length} cables join ${names} in a loop`,
          reason: half
            ? 'The other end joins them into a group; with one end alone, frames are lost or go round.'
            : `Broadcasts go round between ${bundle.map(({ a }) => `port ${a.port}`).join(' and ')}. Taken as one they carry more and one may fail.`,
          place: placeAt(context, half ? lone : bundle[1]!.a),
          mend: asOneMend(context, bundle),
        },
      ];
    });

const groupAt = (context: CheckContext, end: LinkEnd): number | null => portOf(context, end)?.group ?? null;

/** Joins both ends of every cable into one group each. */
function asOneMend(context: CheckContext, bundle: readonly Link[]): Mend | null {
  const operations: Operation[] = [];
  for (const side of ['a', 'b'] as const) {
    const ends = bundle.map((link) => link[side]);
    const device = context.devices.get(ends[0]!.deviceId);
    const document = device && context.documents.get(device.id);
    if (!device || !document || document.kind === 'ap') return null;
    const taken = new Set(document.ports.map((port) => port.group ?? 0));
    const kept = groupAt(context, ends[0]!);
    let group = kept ?? 1;
    while (kept === null && taken.has(group)) group++;
    for (const end of ends) {
      const from = context.site.ports[device.id]?.[end.port] ?? null;
      if (from?.group === group) continue;
      const to = { ...from, group };
      operations.push({ type: 'port.set', siteId: context.site.id, deviceId: device.id, port: end.port, from, to });
    }
  }
  const [first] = bundle;
  return {
    label: `take them as one, between ${nameIn(context, first!.a.deviceId)} and ${nameIn(context, first!.b.deviceId)}`,
    operations,
  };
}

/** Ports of one group have to carry the same. */
function unlikeInGroup(context: CheckContext, bundle: readonly Link[]): Finding[] {
  return (['a', 'b'] as const).flatMap((side): Finding[] => {
    const ends = bundle.map((link) => link[side]);
    const say = (end: LinkEnd): string => {
      const port = portOf(context, end);
      return `${port?.untagged} ${port?.tagged.join()}`;
    };
    const other = ends.find((end) => say(end) !== say(ends[0]!));
    const device = context.devices.get(ends[0]!.deviceId);
    if (!other || !device) return [];
    const { dutyId: _duty, group: _group, ...model } = portSetting(context.site, device, ends[0]!.port);
    const from = context.site.ports[device.id]?.[other.port] ?? null;
    const to = { ...from, untagged: model.untagged, tagged: model.tagged };
    const at = { siteId: context.site.id, deviceId: device.id, port: other.port };
    return [
      {
        key: `lattice.group-unlike ${device.id} ${other.port}`,
        code: 'lattice.group-unlike',
        severity: 'error',
        message: `${sayEnd(context, other)} carries other segments than the rest of its group`,
        reason: `Ports ${ends.map((end) => end.port).join(' and ')} act as one, so a frame may take either and be dropped.`,
        place: placeAt(context, other),
        mend: {
          label: `carry there what port ${ends[0]!.port} carries`,
          operations: [{ type: 'port.set', ...at, from, to }],
        },
      },
    ];
  });
}

/** Cables that close a ring over three or more devices, one finding for each that is more than a tree. */
export const rings: Check = (context) => {
  const root = new Map<string, string>();
  const find = (id: string): string => {
    let at = id;
    while (root.has(at)) at = root.get(at)!;
    return at;
  };
  const tree = new Map<string, { link: Link; to: string }[]>();
  const findings: Finding[] = [];
  for (const [link] of bundlesOf(context.links)) {
    const { a, b } = link!;
    const [x, y] = [find(a.deviceId), find(b.deviceId)];
    if (x !== y) {
      root.set(x, y);
      for (const [from, to] of [
        [a, b],
        [b, a],
      ] as const)
        tree.set(from.deviceId, [...(tree.get(from.deviceId) ?? []), { link: link!, to: to.deviceId }]);
      continue;
    }
    const way = wayBetween(tree, a.deviceId, b.deviceId);
    const shared = sharedVlans(context, [link!, ...way]);
    if (shared.length === 0) continue; // no segment goes all the way round
    const names = shared.map((vlan) => context.vlans.get(vlan)?.name ?? `VLAN ${vlan}`);
    findings.push({
      key: `lattice.ring ${a.deviceId}:${a.port} ${b.deviceId}:${b.port}`,
      code: 'lattice.ring',
      severity: 'error',
      message: `The cable between ${sayEnd(context, a)} and ${sayEnd(context, b)} closes a ring`,
      reason: `${names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ')} can go round over ${way.length + 1} cables. Unplug it, or take these segments off one of its ends.`,
      place: placeAt(context, a),
      mend: null,
    });
  }
  return findings;
};

function wayBetween(
  tree: ReadonlyMap<string, readonly { link: Link; to: string }[]>,
  from: string,
  to: string,
): Link[] {
  const before = new Map<string, { link: Link; from: string } | null>([[from, null]]);
  const queue = [from];
  for (const id of queue) {
    if (id === to) break;
    for (const { link, to: next } of tree.get(id) ?? []) {
      if (before.has(next)) continue;
      before.set(next, { link, from: id });
      queue.push(next);
    }
  }
  const way: Link[] = [];
  for (let step = before.get(to); step; step = before.get(step.from)) way.push(step.link);
  return way;
}

/** VLANs that every one of some cables carries at both ends. */
function sharedVlans(context: CheckContext, links: readonly Link[]): number[] {
  let shared: number[] | null = null;
  for (const end of links.flatMap(({ a, b }) => [a, b])) {
    const port = portOf(context, end);
    const carried: number[] = port ? [...(port.untagged === null ? [] : [port.untagged]), ...port.tagged] : [];
    shared = shared === null ? carried : shared.filter((vlan) => carried.includes(vlan));
  }
  return [...(shared ?? [])].sort((a, b) => a - b);
}

/** Frames without a tag that change their VLAN on a cable; two segments flow into each other there. */
export const nativeMismatch: Check = (context) =>
  context.links.flatMap(({ a, b }): Finding[] => {
    const [near, far] = [portOf(context, a), portOf(context, b)];
    if (!near || !far || near.untagged === far.untagged) return [];
    // Where one end drops untagged frames the strand that lacks them says it.
    if (near.untagged === null || far.untagged === null) return [];
    const [left, right] = [context.vlans.get(near.untagged), context.vlans.get(far.untagged)];
    if (!left || !right) return [];
    const { managementId, id: siteId } = context.site;
    const wrong = left.id === managementId ? b : right.id === managementId ? a : null;
    const from = wrong === a ? left.id : right.id;
    const both = [left, right].filter((segment) => segment.addresses !== null);
    return [
      {
        key: `lattice.native ${a.deviceId}:${a.port} ${b.deviceId}:${b.port}`,
        code: both.length === 2 ? 'lattice.two-servers' : 'lattice.native',
        severity: 'error',
        message: `${left.name} and ${right.name} flow into each other between ${nameIn(context, a.deviceId)} and ${nameIn(context, b.deviceId)}`,
        reason: `${sayEnd(context, a)} sends VLAN ${left.vlan} untagged, ${sayEnd(context, b)} takes it for VLAN ${right.vlan}${both.length === 2 ? '; so two services answer there, and clients get addresses of either' : ''}.`,
        place: placeAt(context, wrong ?? a),
        mend:
          wrong === null
            ? null
            : {
                label: `carry ${context.site.management.vlan} untagged on ${sayEnd(context, wrong)}`,
                operations: [
                  { type: 'port.untagged', siteId, deviceId: wrong.deviceId, port: wrong.port, from, to: managementId },
                ],
              },
      },
    ];
  });

/** A segment that a list sends over a cable whose other end drops it, and that nothing there asks for. */
export const deadEnds: Check = (context) =>
  context.links.flatMap(({ a, b }) =>
    [
      [a, b],
      [b, a],
    ].flatMap(([near, far]): Finding[] => {
      const [port, peer] = [portOf(context, near!), portOf(context, far!)];
      const said = context.site.ports[near!.deviceId]?.[near!.port]?.tagged;
      if (!port || !peer || said === undefined || said === 'all') return [];
      // An AP takes what it needs; tags beyond that are common and do nothing.
      if (context.documents.get(far!.deviceId)?.kind === 'ap') return [];
      return port.tagged
        .filter((vlan) => peer.untagged !== vlan && !peer.tagged.includes(vlan))
        .flatMap((vlan): Finding[] => {
          const segment = context.vlans.get(vlan);
          if (!segment || !said.includes(segment.id)) return [];
          const at = { siteId: context.site.id, deviceId: near!.deviceId, port: near!.port };
          return [
            {
              key: `lattice.dead-end ${near!.deviceId}:${near!.port} ${segment.id}`,
              code: 'lattice.dead-end',
              severity: 'info',
              message: `${segment.name} ends dead behind ${sayEnd(context, near!)}`,
              reason: `${sayEnd(context, far!)} drops VLAN ${vlan}, so sending it there does nothing.`,
              place: placeAt(context, near!),
              mend: {
                label: `take the tag ${vlan} off ${sayEnd(context, near!)}`,
                operations: [{ type: 'port.untag', ...at, segmentId: segment.id }],
              },
            },
          ];
        });
    }),
  );

/** A cable that only one of its two devices reports. */
export const oneSided: Check = (context) =>
  context.links.flatMap((link): Finding[] => {
    if (link.only === undefined) return [];
    const [says, silent] = link.only === 'a' ? [link.a, link.b] : [link.b, link.a];
    return [
      {
        key: `lattice.one-sided ${silent.deviceId}:${silent.port}`,
        code: 'lattice.one-sided',
        severity: 'warning',
        message: `Only ${nameIn(context, says.deviceId)} reports the cable to ${sayEnd(context, silent)}`,
        reason: `${nameIn(context, silent.deviceId)} hears nothing on port ${silent.port}: one direction of the cable is broken, or something between them swallows neighbour reports.`,
        place: placeAt(context, silent),
        mend: null,
      },
    ];
  });

/** An AP whose way leads through another AP. */
export const apBehindAp: Check = (context) =>
  hiddenAps(context).map(({ id, behind }) => ({
    key: `lattice.ap-behind-ap ${id}`,
    code: 'lattice.ap-behind-ap',
    severity: 'info',
    message: `${nameIn(context, id)} hangs behind ${nameIn(context, behind)}`,
    reason:
      'Both share the outer one’s way: a restart of one silences both, and APs here cannot give addresses themselves.',
    place: { siteId: context.site.id, kind: 'device', id },
    mend: null,
  }));

/** APs whose own uplink goes to another AP. */
export function hiddenAps(context: CheckContext): { readonly id: string; readonly behind: string }[] {
  const uplinkOf = (id: string): string | undefined => {
    const document = context.documents.get(id);
    return document?.kind === 'ap' ? document.ports[0]?.name : undefined;
  };
  return context.links.flatMap(({ a, b }) =>
    [
      [a, b],
      [b, a],
    ].flatMap(([own, far]) => {
      const behind = uplinkOf(own!.deviceId) === own!.port && context.documents.get(far!.deviceId)?.kind === 'ap';
      // Two APs joined by their uplinks: the one later in the roster is said to hang behind.
      const mutual = uplinkOf(far!.deviceId) === far!.port && own!.deviceId < far!.deviceId;
      return behind && !mutual ? [{ id: own!.deviceId, behind: far!.deviceId }] : [];
    }),
  );
}
