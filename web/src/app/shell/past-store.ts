import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject, signal } from '@angular/core';
import type { RevisionView } from '@iron-lattice/core/rollout';
import { firstValueFrom } from 'rxjs';

/** What people mean by live while they ask: what is live now, or what was at a revision or a moment. Provided by its page. */
@Injectable()
export class PastStore {
  private readonly http = inject(HttpClient);
  /** The number of a revision, or a moment in ISO 8601; undefined: now. */
  readonly then = signal<string | undefined>(undefined);
  /** Whether a moment is being chosen, and what was typed of it: it stays while what it is of is fetched anew. */
  readonly asksMoment = signal(false);
  readonly moment = signal('');
  readonly revisions = signal<readonly RevisionView[]>([]);
  /** What it is called. */
  readonly words = computed(() => {
    const then = this.then();
    if (then === undefined) return 'live';
    if (then === '0') return 'as founded';
    if (/^\d+$/.test(then)) return `revision ${then}`;
    return new Date(then).toLocaleString('en-IE', { dateStyle: 'medium', timeStyle: 'short' });
  });

  /** Looks which revisions there are to choose from. */
  async list(): Promise<void> {
    this.revisions.set(await firstValueFrom(this.http.get<RevisionView[]>('/api/revisions')));
  }
}
