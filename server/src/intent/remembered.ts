import type { SentConsequences, SiteReview } from '@iron-lattice/core/assess';
import type { Difference } from '@iron-lattice/core/document';
import { LRUCache } from 'lru-cache';

/**
 * What is remembered of sites by the hash of all that it follows from: the latest, as many as weigh so much together. A weight is a
 * line of a difference, a finding or a row of a grid, some hundred octets each. Of reviews those of a whole estate have to stay while it is looked at.
 */
const MOST_SITES = 2000;
const MOST_WEIGHT = { consequences: 300_000, reviews: 1_500_000 } as const;

const weightOf = (differences: Iterable<Difference>): number => {
  let sum = 1;
  for (const { lines } of differences) sum += lines.length;
  return sum;
};

const remembered = <T extends object>(most: number, weigh: (value: T) => number): LRUCache<string, T> =>
  new LRUCache<string, T>({ max: MOST_SITES, maxSize: most, sizeCalculation: weigh });

/** Consequences of drafts at sites. */
export const rememberedConsequences = (): LRUCache<string, SentConsequences> =>
  remembered(
    MOST_WEIGHT.consequences,
    ({ findings, changes, grid: { rows } }) => 1 + findings.length + changes.length + rows.length,
  );

/** Reviews of them, over many sites. */
export const rememberedReviews = (): LRUCache<string, SiteReview> =>
  remembered(MOST_WEIGHT.reviews, ({ differences }) => weightOf(Object.values(differences)));
