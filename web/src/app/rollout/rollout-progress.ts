import { DatePipe } from '@angular/common';
import { Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { RolloutState, RolloutView, RolloutWish, WhatStopDoes } from '@iron-lattice/core/rollout';
import { liveFetch } from '../shell/live-fetch';
import { anewFor } from '../ui/anew-for';
import { counted } from '../ui/counted';
import { ProgressCount } from '../ui/progress-count';
import { RolloutApi } from './rollout-api';
import { RolloutStep } from './rollout-step';
import { WaveList } from './wave-list';

const STATE_WORDS: Readonly<Record<RolloutState, string>> = {
  waiting: 'about to begin',
  running: 'under way',
  resting: 'waits before the next wave',
  holding: 'waits for the hours of a site',
  paused: 'paused',
  done: 'done',
  stopping: 'being stopped',
  stopped: 'stopped',
  'putting-back': 'being put back',
  'put-back': 'put back',
};
const ASKED_WORDS: Readonly<Record<RolloutWish, string>> = {
  pause: 'pauses after the device that is told now',
  stop: 'is being stopped',
  back: 'goes back',
};
/** How often one that moves is fetched at the most, in milliseconds. */
const FOLLOW_MS = 200;

/** What people can ask of a rollout that is under way. */
export type Asked = 'pause' | 'go-on' | 'stop' | 'cancel';

/** A rollout, its waves and its devices, moving by itself; with what can be asked of it, and what that would do. */
@Component({
  selector: 'il-rollout-progress',
  imports: [DatePipe, MatButtonModule, ProgressCount, RolloutStep, WaveList],
  template: `
    <details [open]="open()" (toggle)="open.set($any($event.target).open)">
      <summary>
        @if (view().revision === null) {
          <b>{{ view().draftName }}</b>
        } @else {
          <b>Revision {{ view().revision }}</b>
          <span>“{{ view().draftName }}”</span>
        }
        <span [class.good]="view().state === 'done'" [class.bad]="bad()">{{ state() }}</span>
        <span class="soft"
          >{{ view().startedBy }}, {{ view().startedAt | date: 'd MMM, HH:mm:ss'
          }}{{ view().resumed ? ', taken up again after an interruption' : '' }}</span
        >
        <span class="grow"></span>
        <il-progress-count [done]="told()" [of]="view().devices" what="devices" />
      </summary>
      @if (mayAsk() && view().endedAt === null) {
        <div class="asks" role="group" aria-label="What to do with it">
          @if (view().state === 'paused') {
            <button mat-flat-button (click)="asked.emit('go-on')">{{ goOn() }}</button>
          } @else if (view().waves.length > 1 || view().devices > 1) {
            <button mat-stroked-button [disabled]="!mayPause()" (click)="asked.emit('pause')">Pause</button>
          }
          @if (view().would; as would) {
            <button mat-stroked-button [disabled]="!mayStop()" (click)="considered.set('stop')">Stop here…</button>
            <button mat-stroked-button [disabled]="!mayGoBack()" (click)="considered.set('cancel')">Go back…</button>
          }
          @if (view().state === 'holding' && view().restUntil; as until) {
            <span class="soft">Goes on {{ until | date: 'EEE d MMM, HH:mm' }}.</span>
          } @else if (view().state === 'resting' && view().restUntil; as until) {
            <span class="soft">The next wave may begin at {{ until | date: 'HH:mm:ss' }}, if what must hold does.</span>
          }
        </div>
      }
      @if (view().would; as would) {
        @if (considered(); as what) {
          <div class="consider" role="alertdialog" [attr.aria-label]="what === 'stop' ? 'Stop here' : 'Go back'">
            <p>{{ foretold(what === 'stop' ? would.stop : would.back) }}</p>
            <button mat-flat-button (click)="ask(what)">
              {{ what === 'stop' ? 'Stop here' : 'Go back'
              }}{{ puttingBack(what === 'stop' ? would.stop : would.back) }}
            </button>
            <button mat-button (click)="considered.set(null)">Leave it</button>
          </div>
        }
      }
      @if (view().reason; as reason) {
        <p class="reason" [class.bad]="bad()" role="status">
          {{ reason }}
          {{ view().state === 'put-back' ? 'Every device runs what it ran before; the draft is open again.' : '' }}
        </p>
      }
      @if (view().waves.length > 1) {
        <il-wave-list [waves]="view().waves" [now]="view().endedAt === null ? view().wave : null" />
      }
      <ol>
        @for (step of steps(); track step.deviceId) {
          <li><il-rollout-step [step]="step" [site]="manySites()" /></li>
        }
      </ol>
      @if (view().steps.length > 0 && view().steps.length < view().devices) {
        <p class="soft more">and {{ counted(view().devices - view().steps.length, 'device') }} more</p>
      }
    </details>
  `,
  styles: `
    details {
      border-bottom: 1px solid var(--rule);
    }
    summary {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 10px;
      padding: 7px 14px;
      cursor: pointer;
      background: var(--sheet);
    }
    .asks,
    .consider {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 8px;
      padding: 8px 14px;
    }
    .consider {
      border-left: 3px solid var(--caution);
    }
    .consider p {
      flex: 1 0 100%;
      margin: 0;
    }
    .reason {
      padding: 6px 14px 0;
    }
    ol {
      list-style: none;
      margin: 0;
      padding: 4px 14px 8px;
    }
    .more {
      padding: 0 14px 8px;
    }
  `,
})
export class RolloutProgress {
  private readonly api = inject(RolloutApi);
  /** As it is in the list: its devices are fetched once it is opened. */
  readonly rollout = input.required<RolloutView>();
  readonly folded = input(false);
  readonly mayAsk = input(false);
  readonly asked = output<Asked>();
  protected readonly counted = counted;
  protected readonly open = linkedSignal(() => !this.folded());
  private readonly whole = liveFetch({
    of: () => (this.open() ? this.rollout().id : undefined),
    fetch: (id) => this.api.rollout(id),
    when: (event) => event.type === 'rollout' && event.rolloutId === this.rollout().id,
    every: FOLLOW_MS,
  });
  /** With its devices, once they are there. */
  protected readonly view = computed(() => {
    const [listed, whole] = [this.rollout(), this.whole.value()];
    return whole?.id === listed.id ? whole : listed;
  });
  /** What somebody thinks of asking, having been told what it would do. */
  protected readonly considered = anewFor<'stop' | 'cancel' | null>(
    () => `${this.view().id} ${this.view().endedAt === null}`,
    () => null,
  );
  protected readonly state = computed(() => {
    const { state, asked } = this.view();
    return asked !== null && !['stopping', 'putting-back'].includes(state) ? ASKED_WORDS[asked] : STATE_WORDS[state];
  });
  protected readonly bad = computed(() => {
    const { state, waves } = this.view();
    const failed = waves.some(({ counts }) => (counts.failed ?? 0) > 0);
    return state === 'put-back' || state === 'putting-back' || (state === 'paused' && failed);
  });
  protected readonly told = computed(() =>
    this.view().waves.reduce((sum, { counts }) => sum + (counts.kept ?? 0) + (counts.later ?? 0), 0),
  );
  /** Those of the wave that is told, and those that failed; of one that is over, all. */
  protected readonly steps = computed(() => {
    const { steps, endedAt, wave, waves } = this.view();
    if (endedAt !== null || waves.length < 2) return steps;
    return steps.filter((step) => step.wave === wave || step.state === 'failed');
  });
  protected readonly manySites = computed(() => new Set(this.view().steps.map(({ siteId }) => siteId)).size > 1);
  protected readonly goOn = computed(() => {
    const { restUntil, waves } = this.view();
    if (restUntil !== null) return 'Go on with the next wave';
    const failed = waves.reduce((sum, { counts }) => sum + (counts.failed ?? 0), 0);
    return failed > 0 ? `Go on, try ${counted(failed, 'device')} again` : 'Go on';
  });
  protected readonly mayPause = computed(() => {
    const { asked, state } = this.view();
    return asked === null && ['waiting', 'running', 'resting', 'holding'].includes(state);
  });
  protected readonly mayStop = computed(() => {
    const { asked, state } = this.view();
    return (asked === null || asked === 'pause') && !['stopping', 'putting-back'].includes(state);
  });
  protected readonly mayGoBack = computed(() => this.view().asked !== 'back' && this.view().state !== 'putting-back');

  protected ask(what: 'stop' | 'cancel'): void {
    this.considered.set(null);
    this.asked.emit(what);
  }

  protected foretold({ stay, back, never }: WhatStopDoes): string {
    const at = ({ devices, sites }: WhatStopDoes['stay']): string =>
      `${counted(devices, 'device')} at ${counted(sites, 'site')}`;
    const parts = [
      ...(stay.devices > 0 ? [`${at(stay)} stay as they were told`] : []),
      ...(back.devices > 0 ? [`${at(back)} go back to what they ran before`] : []),
      ...(never.devices > 0 ? [`${at(never)} are told nothing`] : []),
    ];
    const then =
      stay.devices > 0
        ? 'Sites that are not told are behind; the next rollout tells them.'
        : 'The draft is open again.';
    return `${parts.join(', ')}. ${then}`;
  }

  protected puttingBack({ back }: WhatStopDoes): string {
    return back.devices > 0 ? `, put back ${counted(back.devices, 'device')}` : '';
  }
}
