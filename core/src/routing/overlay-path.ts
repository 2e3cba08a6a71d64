/** Tunnels between sites: spokes with hubs in an order of preference; hubs have tunnels to each other. */
export interface Overlay {
  readonly hubs: readonly string[];
  /** Hubs of each spoke, the preferred one first. */
  readonly order: Readonly<Record<string, readonly string[]>>;
  /** Whether the tunnel between two ends is up. */
  readonly up: (a: string, b: string) => boolean;
}

/** Ways from one end of an overlay to another and back. */
export interface OverlayPath {
  /** The ends that packets pass, both included; null where no tunnel leads there. */
  readonly path: readonly string[] | null;
  readonly back: readonly string[] | null;
  /** Whether answers come back the way that packets went; where they do not, a hub that remembers conversations sees half of each. */
  readonly symmetric: boolean;
}

/**
 * The way through an overlay. A spoke sends everything for other sites to its first hub with a tunnel that is up; that hub hands it to the target where
 * it has a tunnel, else to the first hub in the target’s order that has one. What came from a hub is never handed to a third one (split horizon).
 */
export function overlayPath(overlay: Overlay, from: string, to: string): OverlayPath {
  const [path, back] = [oneWay(overlay, from, to), oneWay(overlay, to, from)];
  const symmetric =
    path !== null && back !== null && path.length === back.length && path.every((end, i) => end === back.at(-1 - i));
  return { path, back, symmetric };
}

function oneWay({ hubs, order, up }: Overlay, from: string, to: string): readonly string[] | null {
  if (from === to) return [from];
  const isHub = (end: string): boolean => hubs.includes(end);
  const liveHubs = (spoke: string): readonly string[] =>
    (order[spoke] ?? []).filter((hub) => isHub(hub) && up(spoke, hub));
  const first = isHub(from) ? from : liveHubs(from)[0];
  if (first === undefined) return null;
  const before = first === from ? [from] : [from, first];
  if (first === to) return before;
  if (isHub(to)) return up(first, to) ? [...before, to] : null;
  // Only who is a hub of the target has a tunnel to it.
  const there = liveHubs(to);
  if (there.includes(first)) return [...before, to];
  const next = there.find((hub) => up(first, hub));
  return next === undefined ? null : [...before, next, to];
}
