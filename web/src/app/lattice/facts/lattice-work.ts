import { Injectable, effect, inject, signal, untracked, type Signal } from '@angular/core';
import type { SiteDraft } from '@iron-lattice/core/assess';
import { AskedWorker } from '../../shell/asked-worker';
import { SiteStore } from '../../shell/site-store';
import {
  answerTo,
  type LatticeAnswer,
  type LatticeAnswers,
  type LatticeAsked,
  type LatticeQuestion,
  type SiteFacts,
} from './lattice-question';

/** Answers questions about the site as the draft has it, off the page's thread. */
@Injectable({ providedIn: 'root' })
export class LatticeWork {
  private readonly store = inject(SiteStore);
  /** What the worker was told last. */
  private told: SiteDraft | null = null;
  private facts: SiteFacts | null = null;
  private readonly worker = new AskedWorker<LatticeAsked, LatticeAnswer>(
    () => new Worker(new URL('./lattice.worker.ts', import.meta.url), { type: 'module' }),
    ({ question }) => answerTo(this.facts!, question),
  );

  /**
   * Keeps the answer to a question up to date; the last one stays until the next is there. Call where injection is possible.
   * @param question what is asked now; null for nothing.
   * @returns null while there is no answer yet.
   */
  answer<K extends keyof LatticeAnswers>(
    question: () => Extract<LatticeQuestion, { kind: K }> | null,
  ): Signal<LatticeAnswers[K] | null> {
    const answer = signal<LatticeAnswers[K] | null>(null);
    effect((onCleanup) => {
      const [facts, now] = [this.store.data(), question()];
      if (!facts || !now) return answer.set(null);
      let current = true;
      onCleanup(() => (current = false));
      untracked(() =>
        this.ask(facts, now, (found) => {
          if (current) answer.set(found as LatticeAnswers[K]);
        }),
      );
    });
    return answer;
  }

  private ask(draft: SiteDraft, question: LatticeQuestion, then: (answer: LatticeAnswer) => void): void {
    const { estate, site, roster, links, uplinks, consequences } = draft;
    const used = consequences.links ? { used: consequences.links } : {};
    const facts: SiteFacts = { estate, site, roster, links, uplinks, ...used };
    const news = this.told === draft ? {} : { facts };
    this.told = draft;
    this.facts = facts;
    this.worker.ask({ question, ...news }, then);
  }
}
