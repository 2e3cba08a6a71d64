import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { Answer, Question, ReachCell, ReachMatrix, Unanswered } from '@iron-lattice/core/assess';
import type { RuleListPreview } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { JoinedSegments } from '../shell/joined-segments';
import type { RuleHits } from '../shell/rule-hits';
import { SiteStore } from '../shell/site-store';

export type RuleBookName = 'site' | 'before' | 'after';
export type On = 'draft' | 'live';

/** A cell of the matrix that is asked about. */
export interface CellQuestion {
  readonly from: string;
  readonly to: string;
  readonly on: On;
  readonly minute: number | null;
  /** What is compared with, if not what is live now. */
  readonly then: string | undefined;
  /** The other site that is reached; null: none. */
  readonly toSite: string | null;
}

/** What the controller answers about a site's rules. */
@Injectable({ providedIn: 'root' })
export class RulesApi {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly joined = inject(JoinedSegments);

  /** Where a site's rules in the draft are answered for. */
  get base(): string {
    return `/api/drafts/${this.store.draft()?.id}/sites/${this.store.siteId()}`;
  }

  /** @param then what is compared with, if not what is live now: a revision, or a moment. @param toSite another site that is to be reached. */
  reach(minute: number | null, then?: string, toSite: string | null = null): Promise<ReachMatrix> {
    const params = {
      ...(minute === null ? {} : { minute }),
      ...(then === undefined ? {} : { then }),
      ...(toSite === null ? {} : { toSite }),
    };
    return firstValueFrom(this.http.get<ReachMatrix>(`${this.base}/reach`, { params }));
  }

  cell(asked: CellQuestion): Promise<ReachCell> {
    const { toSite, ...more } = asked;
    const body = { ...more, ...(toSite === null ? {} : { toSite }) };
    return firstValueFrom(this.http.post<ReachCell>(`${this.base}/reach-cell`, body));
  }

  /** Names of the segments of another site, in the draft. */
  async segmentsAt(siteId: string): Promise<readonly string[]> {
    return (await this.joined.at(siteId)).map(({ name }) => name);
  }

  ask(question: Question, on: On, then?: string): Promise<Answer | Unanswered> {
    return firstValueFrom(
      this.http.post<Answer | Unanswered>(`${this.base}/ask`, { question, on, minute: null, then }),
    );
  }

  /** @param siteId of one site, or null: over all, of the rules that they share. */
  hits(siteId: string | null): Promise<RuleHits[]> {
    return firstValueFrom(
      this.http.get<RuleHits[]>(siteId === null ? '/api/rule-hits' : `/api/sites/${siteId}/rule-hits`),
    );
  }

  look(book: RuleBookName, file: Blob): Promise<RuleListPreview> {
    const headers = { 'content-type': 'application/octet-stream' };
    return firstValueFrom(
      this.http.post<RuleListPreview>(`${this.base}/rule-list`, file, { headers, params: { book } }),
    );
  }
}
