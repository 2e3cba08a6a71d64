import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MOST_REHEARSAL_NAME, type KeptRehearsal, type Mishap } from '@iron-lattice/core/paths';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { TextCell } from '../ui/text-cell';
import { numberTyped } from '../ui/number-typed';
import { secondsWords } from './watch-curve';

/** Rehearsals that a gateway has kept: each is worked out anew after every rollout at its site, and says whether somebody waits too long. */
@Component({
  selector: 'il-kept-rehearsals',
  imports: [MatButtonModule, TextCell],
  template: `
    <h3>Kept, and worked out anew after each rollout</h3>
    <ul aria-label="Kept rehearsals">
      @for (line of lines(); track line.id) {
        <li>
          <span class="state" [class]="line.state">{{ line.word }}</span>
          <div>
            <b>{{ line.name }}</b>&ngsp;
            <span class="soft">{{ line.words }}</span>
            <p class="soft">{{ line.before }}</p>
          </div>
          <button
            mat-button
            type="button"
            [attr.aria-label]="'Look at ' + line.name"
            (click)="chosen.emit(line.mishaps)"
          >
            Look at it
          </button>
          @if (session.mayChange()) {
            <button
              mat-button
              type="button"
              [attr.aria-label]="'Keep ' + line.name + ' no longer'"
              [disabled]="busy()"
              (click)="drop(line.id)"
            >
              No longer
            </button>
          }
        </li>
      } @empty {
        <li class="soft none">
          None yet. Keep what stands above, with how long somebody may wait: whatever is rolled out here is held against
          it.
        </li>
      }
    </ul>
    @if (session.mayChange() && mishaps().length > 0) {
      <div class="cells">
        <il-text-cell
          label="Keep what stands above as"
          for="kept-name"
          example="Cable cut at noon"
          [most]="longest"
          [value]="name()"
          (typed)="name.set($event)"
        />
        <il-text-cell
          label="Anybody waits at most, s"
          for="kept-most"
          [mono]="true"
          [flaw]="flaw()"
          [value]="most()"
          (typed)="most.set($event)"
        >
          <button
            beside
            mat-stroked-button
            type="button"
            [disabled]="busy() || name().trim() === '' || flaw() !== ''"
            (click)="keep()"
          >
            Keep it
          </button>
        </il-text-cell>
      </div>
    }
    @if (problem(); as wrong) {
      <p class="flaw" role="alert">{{ wrong.message }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      border-bottom: 1px solid var(--ink);
    }
    h3 {
      font-size: 13px;
      font-weight: 600;
      line-height: 18px;
      margin: 10px 14px 6px;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      display: flex;
      gap: 12px;
      align-items: baseline;
      padding: 5px 14px;
      border-top: 1px solid var(--rule);
    }
    li > div {
      flex: 1;
    }
    p {
      margin: 0;
    }
    .flaw {
      margin: 8px 14px;
    }
    .state {
      width: 62px;
      flex: none;
      text-align: center;
      border: 1px solid currentColor;
      font-weight: 600;
      font-size: 12px;
      line-height: 16px;
      color: var(--soft);
    }
    .state.passed {
      color: var(--good);
    }
    .state.failed {
      color: var(--bad);
      border-style: dashed;
    }
    .cells {
      border-top: 1px solid var(--rule);
    }
    @media (max-width: 720px) {
      li {
        flex-wrap: wrap;
      }
      li > div {
        flex: 1 1 70%;
      }
    }
  `,
})
export class KeptRehearsals {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly deviceId = input.required<string>();
  /** What could be kept. */
  readonly mishaps = input.required<readonly Mishap[]>();
  readonly time = input.required<(ms: number) => string>();
  /** One that is to be looked at. */
  readonly chosen = output<readonly Mishap[]>();
  protected readonly longest = MOST_REHEARSAL_NAME;
  protected readonly name = signal('');
  protected readonly most = signal('20');
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly flaw = computed(() => {
    const most = numberTyped(this.most());
    return most === null || most < 0 || most > 86_400 ? 'Seconds, from 0 to a day.' : '';
  });
  private readonly kept = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<KeptRehearsal[]>(`/api/sites/${id}/rehearsals`)),
    when: (event) => event.type === 'paths' && event.siteId === this.store.siteId(),
  });
  protected readonly lines = computed(() =>
    (this.kept.value() ?? [])
      .filter(({ deviceId }) => deviceId === this.deviceId())
      .map(({ id, name, mishaps, most, by, runs }) => {
        const [last, ...earlier] = runs;
        const whose = last?.course ? `, by the course “${last.course}”` : '';
        const waits = last
          ? `somebody waits ${secondsWords(last.usual)}, at worst ${secondsWords(last.worst)}${whose}; `
          : '';
        const when = last
          ? ` · ${last.revision === null ? '' : `revision ${last.revision}, `}${this.time()(Date.parse(last.at))}`
          : '';
        const failed = earlier.filter(({ passed }) => !passed).length;
        return {
          ...{ id, name, mishaps, state: last ? (last.passed ? 'passed' : 'failed') : 'unknown' },
          word: last ? (last.passed ? 'passed' : 'failed') : 'not yet',
          words: `${waits}${secondsWords(most)} at most are allowed${when} · kept by ${by}`,
          before:
            earlier.length === 0
              ? ''
              : `Of ${earlier.length} before, ${failed === 0 ? 'all passed' : `${failed} failed`}.`,
        };
      }),
  );

  protected async keep(): Promise<void> {
    const mishaps = this.mishaps().map(({ gatewayId: _of, ...mishap }) => mishap);
    const body = { name: this.name().trim(), mishaps, most: numberTyped(this.most()) };
    const done = await attempt(this.busy, this.problem, async () => {
      await firstValueFrom(this.http.post(`/api/devices/${this.deviceId()}/rehearsals`, body));
      await this.kept.again();
    });
    if (done) this.name.set('');
  }

  protected async drop(id: string): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      await firstValueFrom(this.http.delete(`/api/sites/${this.store.siteId()}/rehearsals/${id}`));
      await this.kept.again();
    });
  }
}
