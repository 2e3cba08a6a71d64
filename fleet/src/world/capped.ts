import { PROBE_MAC } from '@iron-lattice/core/bench';
import {
  ssidsAt,
  type ApDocument,
  type CapDocument,
  type CapsDocument,
  type ClassDocument,
  type SsidDocument,
} from '@iron-lattice/core/document';
import { joinsOnSsid } from '@iron-lattice/core/lattice';
import type { SpeedGot, SpeedPart, SpeedTry } from '@iron-lattice/core/line';
import type { Box } from './box';
import { shaped, type Bucket, type Flow } from './shaping';

type Way = keyof CapDocument;
/** A cap on the way of a probe: who holds it for whom. */
interface Met {
  readonly of: string;
  readonly caps: CapsDocument;
}

/** The caps that a probe meets which joins an SSID, at its AP and at the gateway; a sentence where it cannot join. */
export function capsMet(
  { document, device }: Box,
  gateway: Box,
  { ssid: id, band, classId }: SpeedTry,
): readonly Met[] | string {
  if (id === undefined || document.kind !== 'ap') return [];
  const ssid = document.ssids.find((each) => each.id === id);
  if (!ssid?.bands.includes(band)) return `${device.serial} does not send this SSID at ${band} GHz.`;
  if (!ssidsAt(document, Date.now()).includes(ssid))
    return `“${ssid.name}” is not on the air now: ${ssid.hours!.name}.`;
  const ofClass = classId === undefined ? undefined : classTold(document, ssid, classId);
  if (classId !== undefined && !ofClass) return `“${ssid.name}” puts nobody into that class.`;
  const { vlan } = joinsOnSsid(document, ssid, PROBE_MAC, undefined, ofClass);
  if (vlan === null) return `Clients of “${ofClass!.name}” are not let in here.`;
  const own = capsAtAp(ssid, ofClass);
  if (gateway.document.kind !== 'gateway') return own;
  const routed = (gateway.document.caps ?? []).filter(({ vlans }) => vlan !== null && vlans.includes(vlan));
  return [...own, ...routed.map(({ name, ...caps }) => ({ of: `${name}, at the gateway`, caps }))];
}

/** A class that an SSID of an AP puts clients into. */
export const classTold = (
  { classes = [] }: ApDocument,
  { byClass }: SsidDocument,
  id: string,
): ClassDocument | undefined => (byClass ? classes.find((each) => each.id === id) : undefined);

/** What an AP lets a client have: way by way what its class says, else what the SSID says for each; and what all of the SSID share. */
function capsAtAp({ caps }: SsidDocument, ofClass: ClassDocument | undefined): readonly Met[] {
  const { client } = ofClass ?? {};
  if (!client) return caps ? [{ of: 'the SSID, at the AP', caps }] : [];
  const left = Object.entries(caps?.client ?? {}).filter(([way]) => client[way as Way] === undefined);
  return [
    { of: `the class ${ofClass!.name}, at the AP`, caps: { client } },
    ...(caps ? [{ of: 'the SSID, at the AP', caps: { ...caps, client: Object.fromEntries(left) } }] : []),
  ];
}

/** A part of a way, and what it lets each through, in Mb/s. */
export interface WayPart {
  readonly part: SpeedPart;
  readonly down: number;
  readonly up: number;
}

/**
 * What probes get of a way, each by itself: their packets are played through the buckets of caps, and through what all of them share.
 * @param own what each has for itself, in Mb/s. @param shared what all of them have together.
 */
export function overWay(
  own: readonly WayPart[],
  shared: Readonly<Partial<Record<SpeedPart, readonly [down: number, up: number]>>>,
  met: readonly Met[],
  count: number,
): Pick<SpeedGot, 'down' | 'up' | 'narrowest' | 'cap' | 'each'> {
  const wide: WayPart[] = [
    ...own,
    ...(Object.entries(shared) as [SpeedPart, readonly [number, number]][]).map(([part, [down, up]]) => ({
      part,
      down: down / count,
      up: up / count,
    })),
  ];
  const narrow = (way: Way): { readonly part: SpeedPart; readonly mbps: number } =>
    wide.map((each) => ({ part: each.part, mbps: each[way] })).reduce((a, b) => (b.mbps < a.mbps ? b : a));
  const play = (way: Way): readonly number[] => {
    const free = narrow(way).mbps;
    const limits = limitsOf(met, way);
    if (limits.every(({ bucket, each }) => bucket.kbps >= free * 1000 * (each ? 1 : count)))
      return Array.from({ length: count }, () => free);
    const buckets: Bucket[] = [];
    const flows = Array.from({ length: count }, (): { kbps: number; through: number[] } => ({
      kbps: free * 1000,
      through: [],
    }));
    for (const { bucket, each } of limits) {
      if (!each) buckets.push(bucket);
      for (const { through } of flows) {
        if (each) buckets.push(bucket);
        through.push(buckets.length - 1);
      }
    }
    return shaped(flows as readonly Flow[], buckets).map((kbps) => Math.round(kbps / 10) / 100);
  };
  const [down, up] = [play('down'), play('up')];
  const least = limitsOf(met, 'down').map(({ of, bucket, each }) => ({
    of,
    mbps: bucket.kbps / 1000 / (each ? 1 : count),
  }));
  const tight = least.length > 0 ? least.reduce((a, b) => (b.mbps < a.mbps ? b : a)) : null;
  const free = narrow('down');
  const capped = tight !== null && tight.mbps < free.mbps;
  return {
    ...{ down: Math.min(...down), up: Math.min(...up) },
    narrowest: capped ? 'cap' : free.part,
    ...(capped ? { cap: tight.of } : {}),
    ...(count > 1 ? { each: down.map((speed, i) => [speed, up[i]!] as const) } : {}),
  };
}

function limitsOf(met: readonly Met[], way: Way) {
  return met.flatMap(({ of, caps }) => [
    ...(caps.client?.[way] ? [{ of: `each client of ${of}`, each: true, bucket: caps.client[way] }] : []),
    ...(caps.all?.[way] ? [{ of, each: false, bucket: caps.all[way] }] : []),
  ]);
}
