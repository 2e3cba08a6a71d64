import { touchedSites, watchingSites } from '@iron-lattice/core/intent';
import type { OpenedDraft } from './opened-draft';

type Seen = Pick<OpenedDraft, 'intent' | 'live' | 'held'>;

/**
 * Sites that a draft would tell something: those that it touches, and those that are behind the newest. What is only behind
 * because another rollout has yet to come there is left to that one.
 */
export function sitesToTell({ intent, live, held }: Seen): readonly string[] {
  const touched = touchedSites(live.pairs, intent);
  if (held.size === 0) return touched;
  const own = new Set(touchedSites(live.intent, intent));
  return touched.filter((id) => own.has(id) || !held.has(id));
}

/** Sites that it tells nothing, and of which a guarantee reaches one that it tells something: it may be broken by that. */
export const sitesWatching = ({ intent, held }: Seen, told: readonly string[]): readonly string[] =>
  watchingSites(intent, told).filter((id) => !held.has(id));

/** Sites that a draft edits while another one is being rolled out there. */
export function contestedSites({ intent, live, held }: Seen): readonly string[] {
  return held.size === 0 ? [] : touchedSites(live.intent, intent).filter((id) => held.has(id));
}

/** Sites behind the newest that no rollout under way brings it to. */
export const sitesBehind = ({ live, held }: Pick<Seen, 'live' | 'held'>): readonly string[] =>
  live.behind.filter((id) => !held.has(id));
