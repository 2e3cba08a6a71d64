import { DatePipe } from '@angular/common';
import { Component, computed, inject, linkedSignal, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import type { Happening } from '../shell/live-events';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { Stage } from '../ui/stage';
import { DifferenceLines } from '../ui/difference-lines';
import { RolloutApi } from './rollout-api';
import { RolloutProgress } from './rollout-progress';

/** How often a rollout is followed at the most, in milliseconds. */
const FOLLOW_MS = 60;

/** Sends the draft out, and shows what was sent before. */
@Component({
  selector: 'il-rollout-page',
  imports: [DatePipe, FormsModule, MatButtonModule, MatCheckboxModule, Stage, DifferenceLines, RolloutProgress],
  template: `
    <il-stage heading="Rollout" [note]="note()">
      @if (running(); as rollout) {
        <il-rollout-progress [rollout]="rollout" [mayCancel]="session.mayChange()" (cancelled)="cancel(rollout.id)" />
      } @else if (store.draft(); as draft) {
        <section class="next" aria-label="What this draft would tell devices">
          <header>
            <h2>{{ draft.name }}</h2>
            <span class="soft">{{
              draft.edits === 0 ? 'no edits yet' : draft.edits === 1 ? '1 edit' : draft.edits + ' edits'
            }}</span>
            <span class="grow"></span>
            @if (session.mayChange() && draft.edits > 0) {
              @if (errors() > 0) {
                <mat-checkbox name="despite" [ngModel]="despite()" (ngModelChange)="despite.set($event)">
                  Roll out in spite of {{ errors() === 1 ? '1 error' : errors() + ' errors' }}
                </mat-checkbox>
              }
              <button mat-flat-button [disabled]="busy() || !ready()" (click)="start()">
                {{ label() }}
              </button>
            }
          </header>
          @if (session.mayChange() && draft.edits > 0 && against(); as check) {
            @if (check.broken.length > 0) {
              <div class="against" role="group" aria-label="Guarantees that it would break">
                <b class="bad"
                  >{{ check.broken.length === 1 ? 'A guarantee' : check.broken.length + ' guarantees' }} would be
                  broken</b
                >
                @for (each of check.broken; track $index) {
                  <p>
                    {{ each.siteName }}: {{ each.words }} <span class="mono soft">{{ each.packet }}</span>
                  </p>
                }
                <label for="rollout-reason">Why it is rolled out all the same; the journal keeps it</label>
                <input
                  id="rollout-reason"
                  autocomplete="off"
                  [value]="reason()"
                  (input)="reason.set($any($event.target).value)"
                />
              </div>
            }
            @if (check.lockOuts.length > 0) {
              <div class="against" role="group" aria-label="Who would be cut off">
                <b class="bad">Would not reach this controller any more</b>
                @for (each of check.lockOuts; track $index) {
                  <p>
                    {{ each.siteName }}: {{ each.name }} <span class="mono soft">{{ each.packet }}</span> {{ each.why }}
                  </p>
                }
                @for (name of cutSites(); track name) {
                  <label [for]="'rollout-' + name">Type the site’s name, {{ name }}, to do it all the same</label>
                  <input
                    [id]="'rollout-' + name"
                    autocomplete="off"
                    [value]="typed()[name] ?? ''"
                    (input)="type(name, $any($event.target).value)"
                  />
                }
              </div>
            }
          }
          @if (draft.edits === 0) {
            <p class="soft calm">
              Nothing to send. Edit segments, SSIDs or ports; what each device would be told appears here line by line.
            </p>
          } @else {
            @for (change of changes(); track change.deviceId) {
              <details [open]="changes().length < 5">
                <summary>
                  <b class="mono">{{ change.name }}</b>
                  <span class="good">+{{ change.difference.added }}&nbsp;</span
                  ><span class="bad">−{{ change.difference.removed }}</span>
                </summary>
                <il-difference-lines [lines]="change.difference.lines" />
              </details>
            } @empty {
              <p class="soft calm">No device at {{ store.site()?.name }} would hear anything new.</p>
            }
          }
        </section>
      }
      @if (past().length > 0) {
        <section aria-label="Rollouts so far">
          <h2 class="head">Rollouts so far</h2>
          @for (rollout of past(); track rollout.id) {
            <il-rollout-progress [rollout]="rollout" [folded]="!$first || running() !== undefined" />
          }
        </section>
      }
      @if (revisions().length > 0) {
        <section aria-label="Revisions">
          <h2 class="head">Revisions</h2>
          <table class="grid">
            <thead>
              <tr>
                <th>Revision</th>
                <th>Draft</th>
                <th>By</th>
                <th>At</th>
              </tr>
            </thead>
            <tbody>
              @for (revision of revisions(); track revision.number) {
                <tr class="empty">
                  <td class="mono">{{ revision.number }}</td>
                  <td>{{ revision.name }}</td>
                  <td>{{ revision.by }}</td>
                  <td>{{ revision.at | date: 'd MMM y, HH:mm:ss' }}</td>
                </tr>
              }
            </tbody>
          </table>
        </section>
      }
    </il-stage>
  `,
  styles: `
    section {
      border-top: 1px solid var(--rule);
    }
    .next header {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 6px 12px;
      padding: 9px 14px;
      background: var(--sheet);
      border-bottom: 1px solid var(--rule);
    }
    .against {
      padding: 8px 14px;
      border-bottom: 1px solid var(--rule);
      border-left: 3px solid var(--bad);
    }
    .against label {
      display: block;
      margin-top: 6px;
      color: var(--soft);
    }
    .against input {
      width: min(420px, 100%);
      height: 28px;
      padding: 0 8px;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
    }
    .head {
      padding: 12px 14px 6px;
    }
    .calm {
      padding: 10px 14px;
    }
    details {
      border-bottom: 1px solid var(--rule);
    }
    summary {
      padding: 6px 14px;
      cursor: pointer;
    }
    summary .mono {
      display: inline-block;
      min-width: 110px;
    }
  `,
})
export class RolloutPage {
  private readonly api = inject(RolloutApi);
  private readonly estate = inject(EstateStore);
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  private readonly followed = { of: () => 'all', when: ({ type }: Happening) => type === 'rollout', every: FOLLOW_MS };
  private readonly rolled = liveFetch({ ...this.followed, fetch: () => this.api.rollouts() });
  private readonly rollouts = computed(() => this.rolled.value() ?? []);
  private readonly made = liveFetch({ ...this.followed, fetch: () => this.api.revisions() });
  protected readonly revisions = computed(() => this.made.value() ?? []);
  protected readonly busy = signal(false);

  protected readonly running = computed(() => this.rollouts().find((rollout) => rollout.endedAt === null));
  protected readonly past = computed(() => this.rollouts().filter((rollout) => rollout.endedAt !== null));
  protected readonly changes = computed(() => this.store.consequences()?.changes ?? []);
  protected readonly errors = computed(
    () => (this.store.consequences()?.findings ?? []).filter((finding) => finding.severity === 'error').length,
  );
  /** Said anew for every edit: what was accepted was another state of the draft. */
  protected readonly despite = linkedSignal<number | undefined, boolean>({
    source: () => this.store.draft()?.head,
    computation: () => false,
  });
  /** What stands against it over all sites, asked anew for every edit. */
  private readonly checked = resource({
    params: () => {
      const draft = this.store.draft();
      return draft && draft.edits > 0 && draft.state === 'open' ? { id: draft.id, head: draft.head } : undefined;
    },
    loader: ({ params }) => this.api.check(params.id),
  });
  protected readonly against = computed(() => (this.checked.hasValue() ? this.checked.value() : null));
  protected readonly cutSites = computed(() => [
    ...new Set((this.against()?.lockOuts ?? []).map(({ siteName }) => siteName)),
  ]);
  protected readonly reason = linkedSignal<number | undefined, string>({
    source: () => this.store.draft()?.head,
    computation: () => '',
  });
  protected readonly typed = linkedSignal<number | undefined, Readonly<Record<string, string>>>({
    source: () => this.store.draft()?.head,
    computation: () => ({}),
  });
  /** Whether all that stands against it has been answered. */
  protected readonly ready = computed(() => {
    if (this.errors() > 0 && !this.despite()) return false;
    if ((this.against()?.broken.length ?? 0) > 0 && this.reason().trim() === '') return false;
    return this.cutSites().every((name) => this.typed()[name]?.trim() === name);
  });
  protected readonly label = computed(() => {
    const count = this.changes().length;
    if (count === 0) return 'Roll out';
    return count === 1 ? 'Roll out to 1 device' : `Roll out to ${count} devices`;
  });
  protected readonly note = computed(() => {
    const revision = this.estate.estate()?.revision ?? 0;
    return revision === 0 ? 'Nothing has been rolled out yet' : `Revision ${revision} is live`;
  });

  protected async start(): Promise<void> {
    this.busy.set(true);
    await this.store.attempt(async () => {
      await this.api.start({
        draftId: this.store.draft()!.id,
        despiteErrors: this.despite(),
        ...(this.reason().trim() ? { reason: this.reason().trim() } : {}),
        ...(this.cutSites().length > 0 ? { sites: this.cutSites() } : {}),
      });
    });
    this.busy.set(false);
  }

  protected type(name: string, text: string): void {
    this.typed.update((typed) => ({ ...typed, [name]: text }));
  }

  protected async cancel(id: string): Promise<void> {
    await this.store.attempt(async () => {
      await this.api.cancel(id);
    });
  }
}
