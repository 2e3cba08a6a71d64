import { tunnelShare } from '@iron-lattice/core/document';
import type { Band } from '@iron-lattice/core/hardware';
import type { SpeedGot, SpeedTry } from '@iron-lattice/core/line';
import type { OnAir } from '../air/on-air';
import type { Box, HangsOn, Spot } from './box';
import { capsMet, overWay, type WayPart } from './capped';
import type { WorldProvider } from '../paths/provider-file';

/** What somebody on the internet carries, in Mb/s, and how long a hop by radio takes there and back, in milliseconds. */
const [FAR_MBPS, HOP_MS] = [940, 2];
/** What of a cable's speed is left for TCP (IEEE 802.3 frames of 1,500 octets). */
const OF_CABLE = 0.94;

/** How a try went; `speed` where it did. */
export interface SpeedTried {
  readonly ok: boolean;
  readonly text: string;
  readonly speed?: SpeedGot;
}

/** The way of a probe behind its AP. */
export interface Way {
  readonly box: Box;
  /** Where its frames are first; null: it joins no SSID. */
  readonly spot: Spot | null;
  /** Octets of the largest packet that its tunnel takes in one piece; absent: it goes through none. */
  readonly inside?: number | undefined;
  /** Its own site’s gateway, where its tunnel leads to that of another. */
  readonly near?: Box | undefined;
  /** Null: none is reached, or none has a way out. */
  readonly gateway: Box | null;
  /** Megabits a second of the cable that a box is on. */
  readonly portSpeed: (box: Box) => number | undefined;
  readonly provider: (gateway: Box) => WorldProvider | undefined;
}

/** What a probe near an AP gets, down and up, and what of the way to somebody on the internet is the narrowest. */
export function trySpeed(
  onAir: OnAir,
  asked: SpeedTry,
  { box, spot, inside, near, gateway, portSpeed, provider: of }: Way,
): SpeedTried {
  const air = onAir.trySpeed(box.device.serial, asked);
  if (!air) {
    const text = `Its ${asked.band} GHz radio does not take the probe: it is off, busy otherwise, or too far.`;
    return { ok: false, text };
  }
  if (!gateway) return { ok: false, text: nothingGetsOut(spot) };
  const met = capsMet(box, gateway, asked);
  if (typeof met === 'string') return { ok: false, text: met };
  const hops = hopsOf(box);
  const left = OF_CABLE * (inside === undefined ? 1 : tunnelShare(inside));
  const link = (portSpeed(hops.at(-1)?.on ?? box) ?? FAR_MBPS) * left;
  const lines = [...(near ? [of(near)] : []), of(gateway)];
  const count = asked.count ?? 1;
  const own = [
    { part: 'air' as const, down: air.airDown, up: air.airUp },
    ...overRadio(onAir, asked.band, air, hops, count),
  ];
  const shared = {
    cable: [link, link],
    uplink: uplinkOf(lines.map((line) => line?.mbps ?? [FAR_MBPS, FAR_MBPS])),
    'far end': [FAR_MBPS, FAR_MBPS],
  } as const;
  const got = overWay(own, shared, met, count);
  const over = [...lines, ...(near ? [of(gateway)] : [])].reduce((sum, line) => sum + (line?.latency ?? 8), 0);
  const latency = air.latency + hops.length * HOP_MS + over;
  const text = `${got.down.toFixed(0)} Mb/s down, ${got.up.toFixed(0)} up.`;
  return { ok: true, text, speed: { ...air, ...got, latency } };
}

/** What lines let through, down and up. The last is that of whoever leaves: what comes to it by another’s goes through it both ways. */
function uplinkOf(lines: readonly (readonly [down: number, up: number])[]): readonly [number, number] {
  const last = lines.at(-1)!;
  if (lines.length === 1) return last;
  const [[down, up], both] = [lines[0]!, Math.min(...last)];
  return [Math.min(down, both), Math.min(up, both)];
}

function nothingGetsOut(spot: Spot | null): string {
  if (!spot) return 'Nothing gets through to the internet.';
  if (spot.tunnel) return 'Nothing gets through its tunnel and on to the internet.';
  return `Nothing gets through from VLAN ${spot.vlan} to the internet.`;
}

type Hop = HangsOn & { readonly from: Box };

/** The links by radio between an AP and the one that hangs on a cable. */
function hopsOf(box: Box): readonly Hop[] {
  return box.hangs ? [{ ...box.hangs, from: box }, ...hopsOf(box.hangs.on)] : [];
}

/** What links by radio let through: those that share a channel send after each other, the clients' own part included. */
function overRadio(
  onAir: OnAir,
  band: Band,
  air: { readonly airDown: number; readonly airUp: number },
  hops: readonly Hop[],
  count: number,
): WayPart[] {
  const spans = new Map<Band, { down: number; up: number }>();
  for (const hop of hops) {
    const got = onAir.tryBetween(hop.on.device.serial, hop.from.device.serial, hop.band);
    const own = hop.band === band ? { down: 1 / air.airDown, up: 1 / air.airUp } : { down: 0, up: 0 };
    const known = spans.get(hop.band) ?? own;
    const each = (speed: number | undefined): number => count / (speed ?? 0);
    spans.set(hop.band, { down: known.down + each(got?.down), up: known.up + each(got?.up) });
  }
  return [...spans.values()].map(({ down, up }) => ({ part: 'mesh', down: 1 / down, up: 1 / up }));
}
