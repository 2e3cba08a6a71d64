import { Injectable, computed, inject } from '@angular/core';
import type { EstatePart, KeptSet, OfBook } from '@iron-lattice/core/intent';
import { policyOf, type PolicyRow } from '@iron-lattice/core/rollout';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { TrafficTokens } from '../shell/traffic-tokens';
import type { RuleHits } from '../shell/rule-hits';
import { RulesApi } from './rules-api';
import { liveFetch } from '../shell/live-fetch';

/** A rule not decided by in this many days is worth a look. */
const QUIET_DAYS = 30;

/** What the parts of the rules page have in common: the rules as they take effect, names, hits. */
@Injectable()
export class RulesFacts {
  private readonly store = inject(SiteStore);
  private readonly api = inject(RulesApi);
  private readonly shared = inject(SharedStore);

  private readonly tokens = inject(TrafficTokens);
  readonly resolved = this.tokens.resolved;
  private readonly made = computed(() => {
    const [site, data] = [this.resolved(), this.store.data()];
    return site && data ? policyOf(site, data.roster) : null;
  });
  /** Every rule that takes effect here, in order; over all sites, those that they share. */
  readonly rows = computed((): readonly PolicyRow[] => {
    const estate = this.shared.atEstate() ? this.shared.estate() : null;
    return estate ? sharedRows(estate) : (this.made()?.rows ?? []);
  });
  readonly sets = computed((): readonly { readonly set: KeptSet; readonly shared: boolean }[] => {
    return [
      ...(this.shared.estate()?.sets ?? []).map((set) => ({ set, shared: true })),
      ...(this.store.site()?.sets ?? []).map((set) => ({ set, shared: false })),
    ];
  });
  readonly known = this.tokens.known;

  private readonly counted = liveFetch({
    of: () => ({ siteId: this.store.siteId() }),
    fetch: ({ siteId }) => this.api.hits(siteId),
    when: (event) => event.type === 'device' && event.siteIds.includes(this.store.siteId() ?? ''),
  });
  readonly hits = computed(() => new Map((this.counted.value() ?? []).map((each) => [each.ruleId, each])));

  /** How often a rule decided, in a word or two. */
  hitWords(hits: RuleHits | undefined, now = Date.now()): string {
    if (!hits) return '';
    if (hits.lastAt === null || now - Date.parse(hits.lastAt) > QUIET_DAYS * 86_400_000) {
      const days = Math.floor((now - Date.parse(hits.lastAt ?? hits.since)) / 86_400_000);
      return days >= QUIET_DAYS ? `not hit in ${QUIET_DAYS} days` : 'none yet';
    }
    return hits.packets.toLocaleString('en');
  }

  /** Which rulebook a row is edited in; null for what follows from something else. */
  bookOf(row: PolicyRow): OfBook | null {
    if (row.book === 'site') return { siteId: this.store.siteId()! };
    return row.book === 'before' || row.book === 'after' ? { book: row.book } : null;
  }
}

/** The rules of every site, before and after its own. Where one takes effect each site says. */
function sharedRows({ rulesBefore = [], rulesAfter = [] }: EstatePart): PolicyRow[] {
  const books = [
    ['before', rulesBefore],
    ['after', rulesAfter],
  ] as const;
  return books.flatMap(([book, rules]) => rules.map((rule) => ({ book, rule, applies: !rule.off, places: [] })));
}
