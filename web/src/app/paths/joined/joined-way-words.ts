import type { JoinedWay } from '@iron-lattice/core/routing';
import { tunnelBetween, type JoinedRow } from './joined-rows';

/** A line of the answer to how something gets from one site to another. */
export interface WayLine {
  readonly words: string;
  readonly tone: '' | 'soft' | 'bad' | 'caution';
}

/** The way between two sites in words: by which sites, how long it takes, what it carries, how answers come back, and why nothing comes of it. */
export function wayWords(way: JoinedWay, rows: ReadonlyMap<string, JoinedRow>): WayLine[] {
  const { path, back, symmetric, stops } = way;
  const lines: WayLine[] = [];
  if (path) {
    const steps = path.slice(1).map((id, i) => tunnelBetween(rows, path[i]!, id));
    const delays = steps.map((step) => step?.fact?.delay);
    const took = delays.every((delay) => delay !== undefined)
      ? `, ${Math.round(delays.reduce((sum, delay) => sum + delay, 0))} ms there and back`
      : '';
    const untold = steps.some((step) => step?.state === 'untold') ? ', once this is rolled out' : '';
    const mtu = Math.min(...steps.map((step) => step?.mtu ?? Infinity));
    const octets = Number.isFinite(mtu) ? `; packets of up to ${mtu} octets in one piece` : '';
    lines.push({ words: `${names(path, rows)}${took}${octets}${untold}.`, tone: '' });
  }
  if (path && back)
    lines.push(
      symmetric
        ? { words: 'Answers come back the same way.', tone: 'soft' }
        : { words: `Answers come back another way: ${names(back, rows)}.`, tone: 'caution' },
    );
  return [...lines, ...stops.map((words): WayLine => ({ words, tone: 'bad' }))];
}

const names = (path: readonly string[], rows: ReadonlyMap<string, JoinedRow>): string =>
  path.map((id) => rows.get(id)?.join.name ?? '?').join(' → ');
