import type { Band } from '../hardware';
import type { HeardChannel, HeardNetwork } from '../line';
import { centreMhzOf, predictedSpeed, type Block, type Other, type Pairing, type Width } from '../radio';

/** What one AP heard, as far as it tells who else is on the air. */
export interface HeardAir {
  readonly networks: readonly HeardNetwork[];
  readonly channels: readonly HeardChannel[];
}

/** Frequencies in MHz that a network takes. */
const spanOf = (band: Band, centre: number, width: number): readonly [number, number] => {
  const middle = centreMhzOf(band, centre);
  return [middle - width / 2, middle + width / 2];
};
const meets = ([a, b]: readonly [number, number], [c, d]: readonly [number, number]): boolean => a < d && c < b;

/** Numbers of the 20 MHz parts of a block that a stretch of a band takes, from the lowest. */
export function partsMet(
  band: Band,
  block: Block,
  other: { readonly centre: number; readonly width: number },
): number[] {
  const theirs = spanOf(band, other.centre, other.width);
  return block.members.flatMap((member, i) => (meets(spanOf(band, member, 20), theirs) ? [i] : []));
}

/**
 * Who else sends on the parts of a block, told apart from how long each of its channels was busy: a network that is heard over
 * several parts keeps them busy together, the widest first; what is left of each is somebody's on that part alone. Channels on
 * which nobody but ours is heard count as idle: what ours send there is reckoned for itself.
 * @param isOurs whether a network is one of ours, by its BSSID.
 */
export function strangersOn(
  band: Band,
  block: Block,
  { networks, channels }: HeardAir,
  isOurs: (bssid: string) => boolean,
): Other[] {
  const there = networks.flatMap((network) => {
    const parts = network.band === band && !isOurs(network.bssid) ? partsMet(band, block, network) : [];
    return parts.length > 0 ? [parts] : [];
  });
  const left = block.members.map((member, i) => {
    const busy = channels.find((each) => each.band === band && each.channel === member)?.busy ?? 0;
    return there.some((parts) => parts.includes(i)) ? busy : 0;
  });
  const others: Other[] = [];
  for (const parts of [...there].sort((a, b) => b.length - a.length)) {
    if (parts.length < 2) break;
    const share = Math.min(...parts.map((part) => left[part]!));
    if (share <= 0) continue;
    others.push({ parts, share });
    // What one leaves idle is what the others share: busy shares that come together multiply what is idle.
    for (const part of parts) left[part] = Math.max(0, 1 - (1 - left[part]!) / Math.max(1 - share, 1e-6));
  }
  left.forEach((share, part) => share > 0.005 && others.push({ parts: [part], share }));
  return others;
}

/** The best primary part of a block among others, and the speed there. */
export function bestPrimary(
  width: Width,
  signal: number,
  pairing: Pairing,
  others: readonly Other[],
): { readonly primary: number; readonly speed: number } {
  let best = { primary: 0, speed: -1 };
  for (let primary = 0; primary < width / 20; primary++) {
    const speed = predictedSpeed({ ...pairing, width, signal, primary, others });
    if (speed > best.speed + 1e-9) best = { primary, speed };
  }
  return best;
}
