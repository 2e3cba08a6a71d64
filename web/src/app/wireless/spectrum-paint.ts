import type { AirNetwork } from '@iron-lattice/core/wireless';
import type { HeardChannel } from '@iron-lattice/core/line';
import { centreMhzOf } from '@iron-lattice/core/radio';

/** What is drawn over a stretch of spectrum. */
export interface SpectrumScene {
  /** In the order in which they are drawn; see `drawingOrder`. */
  readonly networks: readonly AirNetwork[];
  /** Of strangers each outline once, for when there are very many; and those that are drawn one by one all the same. */
  readonly outlines: readonly AirNetwork[];
  readonly prominent: readonly AirNetwork[];
  readonly channels: readonly HeardChannel[];
  readonly chosen: string | null;
}
/** From MHz to pixels, and from dBm to pixels. */
export interface SpectrumScales {
  readonly width: number;
  readonly height: number;
  readonly x: (mhz: number) => number;
  readonly y: (dbm: number) => number;
}
/** Inks of the theme that is shown. */
export interface SpectrumInks {
  readonly ours: string;
  readonly stranger: string;
  readonly alarm: string;
  readonly ink: string;
  readonly soft: string;
  readonly rule: string;
  readonly ground: string;
}

/** Loudest and softest that is drawn, in dBm. */
export const [TOP_DBM, FLOOR_DBM] = [-20, -100];
/** Height of the strip with busy shares, and of the axis below, in pixels. */
export const [BUSY_HEIGHT, AXIS_HEIGHT] = [44, 30];
/** Names of networks that are written at most, and that are tried. */
const [MOST_NAMES, MOST_TRIED] = [60, 120];
/** Networks in sight above which strangers are drawn as outlines alone. */
const MANY = 400;
/** Where a name may stand, in pixels below the top of its network. */
const LINES = [-4, 11, 24, 37] as const;
const FONT = '500 11px "Barlow", sans-serif';

/** The edges of a network: a channel's sides fall off. */
function trace(c: CanvasRenderingContext2D, { from, to, signal }: AirNetwork, { x, y }: SpectrumScales): void {
  const [left, right, top, foot] = [x(from), x(to), y(signal), y(FLOOR_DBM)];
  const lean = Math.min(6, (right - left) * 0.08);
  c.moveTo(left, foot);
  c.lineTo(left + lean, top);
  c.lineTo(right - lean, top);
  c.lineTo(right, foot);
}

/**
 * Networks in the order in which they are drawn, the softest first; a radio of ours that sends several on one channel once.
 * @param chosen BSSID of one that stands out.
 */
export function drawingOrder(
  networks: readonly AirNetwork[],
  chosen: string | null,
): Pick<SpectrumScene, 'networks' | 'outlines' | 'prominent'> {
  const bySignal = (list: AirNetwork[]): AirNetwork[] => list.sort((a, b) => a.signal - b.signal);
  const ordered = bySignal(
    once(networks, ({ sentBy, from, to, bssid }) => (sentBy === null ? bssid : `${sentBy} ${from} ${to}`)),
  );
  const outlines = once(
    ordered.filter(({ sentBy }) => sentBy === null),
    ({ from, to, signal }) => `${from} ${to} ${signal}`,
  );
  const stands = ({ sentBy, lookalike, bssid }: AirNetwork): boolean =>
    sentBy !== null || lookalike || bssid === chosen;
  const loudest = ordered.slice(-MOST_TRIED);
  return { networks: ordered, outlines, prominent: bySignal([...new Set([...ordered.filter(stands), ...loudest])]) };
}

/** The first of each key. */
function once<T>(list: readonly T[], keyOf: (each: T) => string): T[] {
  const met = new Set<string>();
  return list.filter((each) => {
    const key = keyOf(each);
    return !met.has(key) && met.add(key);
  });
}

/** Paints networks, the softest behind; ours are filled, strangers are dashed outlines, those with a name of ours are thick. */
export function paintNetworks(
  c: CanvasRenderingContext2D,
  scene: SpectrumScene,
  scales: SpectrumScales,
  inks: SpectrumInks,
): void {
  const { width, y } = scales;
  c.font = FONT;
  c.lineWidth = 1;
  c.setLineDash([]);
  for (let dbm = TOP_DBM; dbm >= FLOOR_DBM; dbm -= 20) {
    c.strokeStyle = inks.rule;
    c.beginPath();
    c.moveTo(0, Math.round(y(dbm)) + 0.5);
    c.lineTo(width, Math.round(y(dbm)) + 0.5);
    c.stroke();
    c.fillStyle = inks.soft;
    c.textAlign = 'left';
    c.fillText(`${dbm} dBm`, 2, Math.round(y(dbm)) - 3);
  }
  const isSeen = ({ from, to }: AirNetwork): boolean => scales.x(to) >= 0 && scales.x(from) <= width;
  // Of very many strangers the outlines alone are drawn, all at once: what lies over each other could not be told apart anyway.
  const many = scene.networks.length > MANY;
  const seen = (many ? scene.prominent : scene.networks).filter(isSeen);
  if (many) {
    c.strokeStyle = inks.stranger;
    c.globalAlpha = 0.5;
    c.beginPath();
    for (const network of scene.outlines) if (isSeen(network)) trace(c, network, scales);
    c.stroke();
    c.globalAlpha = 1;
  }
  for (const network of seen) {
    const ours = network.sentBy !== null;
    const chosen = network.bssid === scene.chosen;
    const ink = network.lookalike ? inks.alarm : ours ? inks.ours : inks.stranger;
    c.beginPath();
    trace(c, network, scales);
    c.fillStyle = ink;
    c.globalAlpha = ours ? 0.22 : 0.06;
    c.fill();
    c.globalAlpha = 1;
    c.strokeStyle = ink;
    c.lineWidth = chosen ? 3 : network.lookalike ? 2.4 : 1.3;
    c.setLineDash(ours ? [] : [5, 3]);
    c.stroke();
  }
  c.setLineDash([]);
  paintNames(c, seen, scales, inks);
}

/** How wide what is written at the scale is, in pixels. */
const SCALE_WIDE = 52;

/** Names over the loudest, where there is room. */
function paintNames(
  c: CanvasRenderingContext2D,
  seen: readonly AirNetwork[],
  { x, y, width }: SpectrumScales,
  inks: SpectrumInks,
): void {
  // Where the scale stands nothing else is written.
  const taken: (readonly [number, number, number])[] = [];
  for (let dbm = TOP_DBM; dbm >= FLOOR_DBM; dbm -= 20) taken.push([0, SCALE_WIDE, Math.round(y(dbm)) - 3]);
  c.textAlign = 'center';
  let written = 0;
  for (let i = seen.length - 1; i >= Math.max(0, seen.length - MOST_TRIED) && written < MOST_NAMES; i--) {
    const { from, to, signal, ssid, sentBy } = seen[i]!;
    const text = sentBy ?? (ssid === '' ? 'says no name' : ssid);
    const half = c.measureText(text).width / 2 + 3;
    const middle = Math.min(width - half, Math.max(half, (x(from) + x(to)) / 2));
    const isFree = (line: number): boolean =>
      taken.every(
        ([left, right, top]) => middle - half >= right || middle + half <= left || Math.abs(line - top) >= 12,
      );
    const line = LINES.map((below) => y(signal) + below).find(isFree);
    if (line === undefined) continue;
    taken.push([middle - half, middle + half, line]);
    // On the ground’s own colour, so that what is drawn below is no part of a letter.
    c.lineWidth = 3;
    c.strokeStyle = inks.ground;
    c.strokeText(text, middle, Math.max(10, line));
    c.fillStyle = inks.ink;
    c.fillText(text, middle, Math.max(10, line));
    written++;
  }
}

/** Paints how long each channel of 20 MHz was busy, and the axis: channels and MHz. */
export function paintFoot(
  c: CanvasRenderingContext2D,
  scene: SpectrumScene,
  scales: SpectrumScales,
  inks: SpectrumInks,
  top: number,
): void {
  const { x, width } = scales;
  c.font = FONT;
  c.strokeStyle = inks.ink;
  c.lineWidth = 1;
  c.beginPath();
  c.moveTo(0, top + BUSY_HEIGHT + 0.5);
  c.lineTo(width, top + BUSY_HEIGHT + 0.5);
  c.stroke();
  let lastLabel = -Infinity;
  for (const { band, channel, busy } of scene.channels) {
    const middle = centreMhzOf(band, channel);
    // At 2.4 GHz channels overlap: each is drawn as far as the next begins.
    const half = band === '2.4' ? 2.5 : 10;
    const [left, right] = [x(middle - half), x(middle + half)];
    if (right < 0 || left > width) continue;
    const tall = busy * BUSY_HEIGHT;
    c.fillStyle = busy >= 0.5 ? inks.alarm : inks.soft;
    c.globalAlpha = 0.55;
    c.fillRect(left + 1, top + BUSY_HEIGHT - tall, Math.max(1, right - left - 2), tall);
    c.globalAlpha = 1;
    c.fillStyle = inks.ink;
    c.textAlign = 'center';
    if (x(middle) - lastLabel < 22) continue;
    lastLabel = x(middle);
    c.fillText(`${channel}`, x(middle), top + BUSY_HEIGHT + 13);
    if (right - left > 26) {
      c.fillStyle = inks.soft;
      c.fillText(`${middle}`, x(middle), top + BUSY_HEIGHT + 26);
      if (busy > 0.005) c.fillText(`${Math.round(busy * 100)} %`, x(middle), top + BUSY_HEIGHT - tall - 2);
    }
  }
}

/** The network under a place of the drawing: the narrowest, then the softest, as it lies before the others. */
export function networkAt(scene: SpectrumScene, mhz: number, dbm: number): AirNetwork | null {
  const under = scene.networks.filter(({ from, to, signal }) => mhz >= from && mhz <= to && dbm <= signal);
  under.sort((a, b) => a.to - a.from - (b.to - b.from) || a.signal - b.signal);
  return under[0] ?? null;
}
