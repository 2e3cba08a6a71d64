import type { JoinedRow } from './joined-rows';

/** Where a site stands in the drawing. */
export interface SiteAt {
  readonly x: number;
  readonly y: number;
}

/** The drawing, and how near two sites come to each other, in its own units. */
export const [WIDTH, HEIGHT, APART] = [900, 460, 92];
/** Passes that push sites apart which are drawn too near. */
const PASSES = 40;

/**
 * Where joined sites stand: as on a map, north above, where it is known where they are; those of which nobody said it in a row below. Where it is known of
 * fewer than two, hubs stand in the middle and the others around them.
 */
export function layJoined(rows: readonly JoinedRow[]): ReadonlyMap<string, SiteAt> {
  const known = rows.filter(({ site }) => site?.coordinates);
  return known.length < 2 ? around(rows) : onMap(rows, known);
}

function onMap(rows: readonly JoinedRow[], known: readonly JoinedRow[]): ReadonlyMap<string, SiteAt> {
  const places = known.map(({ site }) => site!.coordinates!);
  const middle = places.reduce((sum, { latitude }) => sum + latitude, 0) / places.length;
  // A degree of longitude is shorter by the cosine of the latitude.
  const flat = places.map(({ latitude, longitude }) => ({
    x: longitude * Math.cos((middle * Math.PI) / 180),
    y: -latitude,
  }));
  const [xs, ys] = [flat.map(({ x }) => x), flat.map(({ y }) => y)];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [wide, high] = [Math.max(...xs) - left, Math.max(...ys) - top];
  const rest = rows.filter((row) => !known.includes(row));
  const room = rest.length > 0 ? HEIGHT - APART : HEIGHT;
  const scale = Math.min(WIDTH / (wide || 1e-9), room / (high || 1e-9), 1e6);
  const at = flat.map(({ x, y }) => ({
    x: (x - left) * scale + (WIDTH - wide * scale) / 2,
    y: (y - top) * scale + (room - high * scale) / 2,
  }));
  pushApart(at);
  const found = new Map(known.map(({ id }, i): [string, SiteAt] => [id, at[i]!]));
  for (const [i, { id }] of rest.entries())
    found.set(id, { x: ((i + 0.5) * WIDTH) / rest.length, y: Math.max(HEIGHT, ...at.map(({ y }) => y + APART)) });
  return found;
}

function around(rows: readonly JoinedRow[]): ReadonlyMap<string, SiteAt> {
  const hubs = rows.filter(({ member }) => member.role === 'hub');
  const spokes = rows
    .filter(({ member }) => member.role === 'spoke')
    .sort((a, b) => (a.hubs[0] ?? '').localeCompare(b.hubs[0] ?? '') || a.join.name.localeCompare(b.join.name));
  const wide = Math.max(1, (spokes.length * APART) / (2 * Math.PI * (HEIGHT / 2)));
  const found = new Map(
    hubs.map(({ id }, i): [string, SiteAt] => [
      id,
      { x: WIDTH / 2 + (i - (hubs.length - 1) / 2) * APART * 2, y: HEIGHT / 2 },
    ]),
  );
  for (const [i, { id }] of spokes.entries()) {
    const turn = (2 * Math.PI * (i + 0.5)) / spokes.length - Math.PI / 2;
    const [x, y] = [Math.cos(turn) * (WIDTH / 2) * wide, Math.sin(turn) * (HEIGHT / 2) * wide];
    found.set(id, { x: WIDTH / 2 + x, y: HEIGHT / 2 + y });
  }
  return found;
}

/** Moves sites that are drawn too near each other apart, each by half. */
function pushApart(at: { x: number; y: number }[]): void {
  if (at.length > 300) return; // so many are read when zoomed in
  for (let pass = 0; pass < PASSES; pass++)
    for (const [i, a] of at.entries())
      for (const b of at.slice(i + 1)) {
        const [dx, dy] = [b.x - a.x || 0.1, b.y - a.y || 0.1];
        const far = Math.hypot(dx, dy);
        if (far >= APART) continue;
        const by = (APART - far) / 2 / far;
        a.x -= dx * by;
        a.y -= dy * by;
        b.x += dx * by;
        b.y += dy * by;
      }
}
