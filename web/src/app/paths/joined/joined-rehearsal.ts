import { Component, DestroyRef, computed, effect, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { TUNNEL_ASKS_SECONDS, TUNNEL_LOSSES } from '@iron-lattice/core/document';
import { joinedEnds } from '@iron-lattice/core/intent';
import { AskedWorker } from '../../shell/asked-worker';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { TextCell } from '../../ui/text-cell';
import { clockOf } from '../clock-of';
import {
  AFTER_S,
  joinedPlaces,
  joinedSum,
  readJoinedMishap,
  whilesOf,
  type JoinedMishapText,
} from './joined-rehearsal-text';
import { answerTo, tunnelKey, type JoinedAnswer, type JoinedQuestion } from './joined-rehearsal-question';
import { JoinedStore } from './joined-store';

const MOST_MISHAPS = 8;

/** What becomes of what two sites say to each other while hubs or tunnels fail, along the time. */
@Component({
  selector: 'il-joined-rehearsal',
  imports: [MatButtonModule, ChoiceCell, TextCell],
  template: `
    <div class="cells ask">
      <il-choice-cell label="From" for="fail-from" [options]="sites()" [value]="from()" (chosen)="from.set($event)" />
      <il-choice-cell label="To" for="fail-to" [options]="sites()" [value]="to()" (chosen)="to.set($event)" />
    </div>
    @for (mishap of mishaps(); track $index; let i = $index) {
      <div class="cells">
        <il-choice-cell
          label="What happens"
          [for]="'fail-what-' + i"
          [flaw]="flaws()[i]"
          [options]="places()"
          [value]="mishap.what"
          (chosen)="put(i, { what: $event })"
        />
        <il-text-cell
          label="From, s"
          [for]="'fail-begins-' + i"
          [mono]="true"
          [value]="mishap.from"
          (typed)="put(i, { from: $event })"
        />
        <il-text-cell
          label="To, s"
          [for]="'fail-ends-' + i"
          [mono]="true"
          [value]="mishap.to"
          (typed)="put(i, { to: $event })"
        />
        <div class="cell away"><button mat-button type="button" (click)="drop(i)">Take away</button></div>
      </div>
    }
    <p>
      @if (mishaps().length < most) {
        <button mat-stroked-button type="button" (click)="more()">Add a mishap</button>
      }
    </p>
    @if (made(); as made) {
      <p role="status">{{ made.sum }}</p>
      <ol>
        @for (one of made.whiles; track one.from) {
          <li [class.lost]="!one.served">
            <span class="mono">{{ clock(one.from) }}</span>
            <i aria-hidden="true" [style.width.%]="one.share"></i>
            <span>{{ one.words }}</span>
          </li>
        }
      </ol>
      <p class="soft">
        Each gateway asks the other ends of its tunnels every {{ asks }} s, and takes one for down after {{ losses }}
        questions without an answer: what is sent until then is lost. Of a pair of gateways one takes over, so that its
        site is not gone.
      </p>
    } @else {
      <p class="soft">
        Choose two sites, and say which hub or tunnel fails when: by which way they reach each other is computed second
        by second, and for how long they do not.
      </p>
    }
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
      overflow: auto;
      border-top: 1px solid var(--ink);
    }
    p {
      margin: 8px 14px;
    }
    .ask {
      border-bottom: 1px solid var(--ink);
    }
    .away {
      display: flex;
      align-items: center;
    }
    ol {
      list-style: none;
      margin: 0 14px;
      padding: 0;
    }
    li {
      display: grid;
      grid-template-columns: 64px 220px minmax(0, 1fr);
      align-items: center;
      gap: 10px;
      padding: 5px 0;
      border-top: 1px solid var(--rule);
    }
    li i {
      height: 10px;
      min-width: 2px;
      background: var(--good);
    }
    li.lost i {
      background: repeating-linear-gradient(135deg, var(--bad) 0 3px, transparent 3px 6px);
    }
    li.lost span:last-child {
      color: var(--bad);
    }
    @media (max-width: 720px) {
      li {
        grid-template-columns: 56px 80px minmax(0, 1fr);
      }
    }
  `,
})
export class JoinedRehearsal {
  private readonly store = inject(JoinedStore);
  private readonly worker = new AskedWorker<JoinedQuestion, JoinedAnswer>(
    () => new Worker(new URL('./joined-rehearsal.worker.ts', import.meta.url), { type: 'module' }),
    answerTo,
  );
  protected readonly most = MOST_MISHAPS;
  protected readonly asks = TUNNEL_ASKS_SECONDS;
  protected readonly losses = TUNNEL_LOSSES;
  protected readonly clock = clockOf;
  protected readonly from = signal<string | null>(null);
  protected readonly to = signal<string | null>(null);
  protected readonly mishaps = signal<readonly JoinedMishapText[]>([{ what: '', from: '10', to: '70' }]);
  protected readonly sites = computed((): Choice[] =>
    this.store.rows().map(({ id, join }) => ({ value: id, label: join.name })),
  );
  protected readonly places = computed(() => joinedPlaces(this.store.rows(), [this.from(), this.to()]));
  private readonly read = computed(() => this.mishaps().map(readJoinedMishap));
  protected readonly flaws = computed(() =>
    this.read().map((each, i) => ('flaw' in each && this.mishaps()[i]!.what !== '' ? each.flaw : '')),
  );
  private readonly question = computed((): JoinedQuestion | null => {
    const [estate, from, to] = [this.store.estate(), this.from(), this.to()];
    const mishaps = this.read().flatMap((each) => ('mishap' in each ? [each.mishap] : []));
    if (!estate || from === null || to === null || from === to || mishaps.length === 0) return null;
    const ends = joinedEnds(estate);
    if (![from, to].every((id) => ends.some((each) => each.id === id))) return null;
    const never = this.store
      .rows()
      .flatMap(({ id, tunnels }) =>
        tunnels.flatMap(({ peerId, state }) => (state === 'never' ? [tunnelKey(id, peerId)] : [])),
      );
    const seconds = Math.max(...mishaps.map((each) => each.to ?? 0)) + AFTER_S;
    return { ends, from, to, mishaps, seconds, never };
  });
  /** What becomes of it, and of what that was asked; the last stays until the next is there. */
  private readonly answered = signal<{ readonly seconds: number; readonly answer: JoinedAnswer } | null>(null);
  protected readonly made = computed(() => {
    const answered = this.answered();
    if (!answered || !this.question()) return null;
    const { seconds, answer } = answered;
    const rows = new Map(this.store.rows().map((row) => [row.id, row]));
    const whiles = whilesOf(answer.mean, rows).map((one) => ({ ...one, share: (100 * (one.to - one.from)) / seconds }));
    return { sum: joinedSum(answer.mean, answer.worst), whiles };
  });

  constructor() {
    effect((onCleanup) => {
      const question = this.question();
      let current = true;
      onCleanup(() => (current = false));
      if (!question) return this.answered.set(null);
      this.worker.ask(question, (answer) => {
        if (current) this.answered.set({ seconds: question.seconds, answer });
      });
    });
    inject(DestroyRef).onDestroy(() => this.worker.stop());
  }

  protected put(at: number, change: Partial<JoinedMishapText>): void {
    this.mishaps.update((all) => all.map((each, i) => (i === at ? { ...each, ...change } : each)));
  }

  protected drop(at: number): void {
    this.mishaps.update((all) => all.filter((_, i) => i !== at));
  }

  protected more(): void {
    this.mishaps.update((all) => [...all, { what: '', from: '10', to: '70' }]);
  }
}
