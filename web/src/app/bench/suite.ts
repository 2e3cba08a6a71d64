import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { seatWords, type SuiteQuestion, type SuiteRun } from '@iron-lattice/core/bench';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { liveFetch } from '../shell/live-fetch';

/** The questions of a site that are asked after each rollout, with what came of them last. */
@Component({
  selector: 'il-suite',
  imports: [MatButtonModule],
  template: `
    <section aria-label="Suite">
      <header>
        <h2>Suite</h2>
        <span class="soft">Asked again after each rollout</span>
        <span class="grow"></span>
        @if (session.mayChange() && questions().length > 0) {
          <button mat-stroked-button [disabled]="running()" (click)="run()">
            {{ running() ? 'Asking…' : 'Ask all now' }}
          </button>
        }
      </header>
      <table class="grid">
        <thead>
          <tr>
            <th scope="col">Question</th>
            <th scope="col">Should</th>
            <th scope="col">Last time{{ lastRun() ? ', revision ' + (lastRun()!.revision ?? 0) : '' }}</th>
            <th scope="col"><span class="visually-hidden">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          @for (line of lines(); track line.question.id) {
            <tr class="empty">
              <td>{{ line.words }}</td>
              <td>{{ line.question.expects === 'answer' ? 'answer' : 'not answer' }}</td>
              <td>
                @if (line.result; as result) {
                  <b [class.good]="result.passed" [class.bad]="!result.passed">{{
                    result.passed ? 'as it should' : 'otherwise'
                  }}</b>
                  <span class="mono soft"> {{ result.got }}</span>
                } @else {
                  <span class="soft">not asked yet</span>
                }
              </td>
              <td>
                @if (session.mayChange()) {
                  <button mat-button (click)="drop(line.question.id)">Remove</button>
                }
              </td>
            </tr>
          } @empty {
            <tr class="empty">
              <td colspan="4" class="soft">
                No question is kept yet. Try something from a seat above, and keep it with the answer it should have.
              </td>
            </tr>
          }
        </tbody>
      </table>
    </section>
  `,
  styles: `
    section {
      border-top: 1px solid var(--ink);
    }
    h2 {
      padding: 8px 14px;
    }
    @media (max-width: 720px) {
      td,
      th {
        white-space: normal;
        overflow-wrap: anywhere;
      }
    }
    header {
      display: flex;
      align-items: center;
      gap: 10px;
      padding-right: 14px;
    }
  `,
})
export class Suite {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly running = signal(false);

  private readonly suite = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (siteId) =>
      firstValueFrom(this.http.get<{ questions: SuiteQuestion[]; runs: SuiteRun[] }>(`/api/sites/${siteId}/suite`)),
    when: ({ type }) => type === 'site' || type === 'rollout',
  });
  protected readonly questions = computed(() => this.suite.value()?.questions ?? []);
  protected readonly lastRun = computed(() => this.suite.value()?.runs[0]);
  protected readonly lines = computed(() =>
    this.questions().map((question) => ({
      question,
      words: seatWords(question),
      result: this.lastRun()?.results.find(({ questionId }) => questionId === question.id),
    })),
  );

  /** Keeps a question with the answer it should have. @throws Problem where the controller refuses it. */
  async keep(question: Omit<SuiteQuestion, 'id'>): Promise<void> {
    await firstValueFrom(this.http.post(this.base, question));
    await this.suite.again();
  }

  protected async drop(id: string): Promise<void> {
    await this.store.attempt(() => firstValueFrom(this.http.delete<void>(`${this.base}/${id}`)));
    await this.suite.again();
  }

  protected async run(): Promise<void> {
    this.running.set(true);
    await this.store.attempt(() => firstValueFrom(this.http.post<void>(`${this.base}-runs`, {})));
    this.running.set(false);
    await this.suite.again();
  }

  private get base(): string {
    return `/api/sites/${this.store.siteId()}/suite`;
  }
}
