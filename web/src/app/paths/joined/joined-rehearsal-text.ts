import { LONGEST_JOINED_S, type JoinedMishap, type JoinedRehearsed, type JoinedSpan } from '@iron-lattice/core/routing';
import { numberTyped } from '../../ui/number-typed';
import { secondsWords } from '../watch-curve';
import type { JoinedRow } from './joined-rows';

/** A mishap as it is typed. */
export interface JoinedMishapText {
  /** `ID`: a site’s gateway is gone; `ID ID`: the tunnel between two sites is cut. */
  readonly what: string;
  readonly from: string;
  readonly to: string;
}

/** What can happen: every gateway of a hub or of either end, and every tunnel of these. */
export function joinedPlaces(
  rows: readonly JoinedRow[],
  ends: readonly (string | null)[],
): { readonly value: string; readonly label: string }[] {
  const near = rows.filter(({ id, member }) => member.role === 'hub' || ends.includes(id));
  const ids = new Set(near.map(({ id }) => id));
  const tunnels = new Map<string, string>();
  for (const row of near)
    for (const { peerId, name } of row.tunnels) {
      const key = [row.id, peerId].sort().join(' ');
      if (ids.has(peerId) && !tunnels.has(key)) tunnels.set(key, `the tunnel ${row.join.name} – ${name} is cut`);
    }
  return [
    ...near.map(({ id, join }) => ({ value: id, label: `${join.name} is gone` })),
    ...[...tunnels].map(([value, label]) => ({ value, label })),
  ];
}

/** What is typed, or what is wrong with it. */
export function readJoinedMishap(
  text: JoinedMishapText,
): { readonly mishap: JoinedMishap } | { readonly flaw: string } {
  const [from, to] = [numberTyped(text.from), numberTyped(text.to)];
  const most = LONGEST_JOINED_S - AFTER_S;
  if (text.what === '') return { flaw: 'Say what happens.' };
  if (from === null || from < 0 || from >= most) return { flaw: `It begins 0 to ${most - 1} s after the start.` };
  if (to === null || to <= from || to > most)
    return { flaw: `It ends after it began, and ${most} s after the start at the latest.` };
  const [siteId, otherId] = text.what.split(' ');
  return { mishap: { what: otherId ? 'tunnel' : 'site', siteId: siteId!, ...(otherId ? { otherId } : {}), from, to } };
}

/** Seconds that are looked at after the last mishap ended. */
export const AFTER_S = 30;

/** A while of the answer, to be drawn and read. */
export interface JoinedWhile extends JoinedSpan {
  readonly words: string;
}

/** What becomes of the way, while by while. */
export function whilesOf({ spans }: JoinedRehearsed, rows: ReadonlyMap<string, JoinedRow>): JoinedWhile[] {
  const names = (path: readonly string[]): string => path.map((id) => rows.get(id)?.join.name ?? '?').join(' → ');
  return spans.map((span) => {
    const { path, back, served } = span;
    if (!path || !back) return { ...span, words: 'nothing gets there' };
    const turned = [...path].reverse().join() === back.join() ? '' : `; back ${names(back)}`;
    return { ...span, words: served ? `${names(path)}${turned}` : `lost on ${names(path)}` };
  });
}

/** The same in a sentence. */
export function joinedSum(mean: JoinedRehearsed, worst: JoinedRehearsed): string {
  if (worst.outage === 0) return 'Everything gets there all along.';
  return `Nothing gets there for ${secondsWords(mean.outage)}, at most ${secondsWords(mean.longest)} at a stretch (at worst ${secondsWords(worst.longest)}).`;
}
