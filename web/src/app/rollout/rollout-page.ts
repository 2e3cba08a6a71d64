import { DatePipe } from '@angular/common';
import { Component, computed, inject, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { RolloutRequest, WavePlan } from '@iron-lattice/core/rollout';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatMenuModule } from '@angular/material/menu';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import type { Happening } from '../shell/live-events';
import { liveFetch } from '../shell/live-fetch';
import { DraftReviews } from '../shell/draft-reviews';
import { SiteStore } from '../shell/site-store';
import { Stage } from '../ui/stage';
import { counted } from '../ui/counted';
import { DraftReviewView } from './draft-review';
import { DraftAgainst, cutSitesOf } from './draft-against';
import { DraftCompareSheet } from './draft-compare-sheet';
import { DraftForm } from './draft-form';
import { RevisionSheet } from './revision-sheet';
import { RolloutApi } from './rollout-api';
import { RolloutProgress, type Asked } from './rollout-progress';
import { RolloutStart } from './rollout-start';
import { PROPOSED_PLAN, WaveForm } from './wave-form';
import { WaveList } from './wave-list';
import { anewFor } from '../ui/anew-for';

/** How often a rollout is followed at the most, in milliseconds. */
const FOLLOW_MS = 60;

/** Sends the draft out, and shows what was sent before. */
@Component({
  selector: 'il-rollout-page',
  imports: [
    DatePipe,
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    Stage,
    DraftReviewView,
    DraftAgainst,
    DraftCompareSheet,
    DraftForm,
    MatMenuModule,
    RevisionSheet,
    RolloutProgress,
    RolloutStart,
    WaveForm,
    WaveList,
  ],
  template: `
    <il-stage heading="Rollout" [note]="note()">
      @for (rollout of running(); track rollout.id) {
        <il-rollout-progress [rollout]="rollout" [mayAsk]="session.mayChange()" (asked)="ask(rollout.id, $event)" />
      }
      @if (rolling()) {
        @if (session.mayChange() && store.draft()!.state === 'rolling-out') {
          <p class="soft calm">
            What is edited meanwhile goes into another draft.
            <button mat-stroked-button (click)="store.startDraft()">Start another draft</button>
          </p>
        }
      } @else if (store.draft(); as draft) {
        <section class="next" aria-label="What this draft would tell devices">
          <header>
            <h2>{{ draft.name }}</h2>
            <span class="soft">{{
              draft.edits === 0 ? 'no edits yet' : draft.edits === 1 ? '1 edit' : draft.edits + ' edits'
            }}</span>
            @if (draft.behind > 0) {
              <span class="caution">{{ counted(draft.behind, 'site') }} behind, told too</span>
            }
            <span class="grow"></span>
            <button mat-button [matMenuTriggerFor]="others" (click)="store.listDrafts()">Other drafts</button>
            <mat-menu #others>
              @for (other of otherDrafts(); track other.id) {
                <button mat-menu-item (click)="besideId.set(other.id)">
                  Beside {{ other.name }} <span class="soft">{{ counted(other.edits, 'edit') }}, {{ other.by }}</span>
                </button>
              } @empty {
                <button mat-menu-item (click)="store.startDraft()" [disabled]="!session.mayChange()">
                  There is no other. Start one
                </button>
              }
            </mat-menu>
            @if (session.mayChange() && due()) {
              @if (errors() > 0) {
                <mat-checkbox name="despite" [ngModel]="despite()" (ngModelChange)="despite.set($event)">
                  Roll out in spite of {{ errors() === 1 ? '1 error' : errors() + ' errors' }}
                </mat-checkbox>
              }
              @if (reviews.whole() && reviews.silent() > 0) {
                <span class="soft">{{ counted(reviews.silent(), 'device') }} of them silent, told when heard</span>
              }
              <il-rollout-start [label]="label()" [ready]="ready()" [request]="request()" (refused)="reviews.ask()" />
            }
          </header>
          @if (fellBack(); as tried) {
            <p class="bad calm" role="alert">
              Tried {{ tried.endedAt | date: 'd MMM, HH:mm' }} and put back. {{ tried.reason }} Nothing of it is live;
              all of it is still here.
            </p>
          }
          <il-draft-form />
          @if (session.mayChange() && due() && reviews.whole() && reviews.devices() > 1) {
            <div class="how">
              <div class="choices" role="group" aria-label="How it goes">
                <button type="button" [attr.aria-pressed]="plan() === null" (click)="plan.set(null)">
                  All at once
                </button>
                <button type="button" [attr.aria-pressed]="plan() !== null" (click)="plan.set(proposed)">
                  In waves
                </button>
              </div>
              <span class="soft">{{
                plan() === null
                  ? 'Sites side by side; when a device refuses, all go back.'
                  : 'A few are tried first; the others follow once what must hold does.'
              }}</span>
            </div>
            @if (plan(); as chosen) {
              <il-wave-form [plan]="chosen" [sites]="toldSites()" (planChange)="plan.set($event)" />
              @if (foreseen.error(); as problem) {
                <p class="bad calm" role="alert">{{ $any(problem).message }}</p>
              } @else if (waves().length > 0) {
                <il-wave-list [waves]="waves()" />
              }
            }
          }
          @if (session.mayChange() && due() && against(); as check) {
            <il-draft-against [check]="check" [(reason)]="reason" [(putRight)]="putRight" [(typed)]="typed" />
          }
          @if (!due()) {
            <p class="soft calm">
              Nothing to send. Edit segments, SSIDs or ports; what each device would be told appears here line by line.
            </p>
          } @else {
            <il-draft-review />
            @if (reviews.whole() && reviews.devices() === 0) {
              <p class="soft calm">No device of any site would hear anything new.</p>
            }
          }
        </section>
      }
      @if (past().length > 0) {
        <section aria-label="Rollouts so far">
          <h2 class="head">Rollouts so far</h2>
          @for (rollout of past(); track rollout.id) {
            <il-rollout-progress [rollout]="rollout" [folded]="!$first || running().length > 0" />
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
                <th>Sites</th>
                <th>By</th>
                <th>At</th>
              </tr>
            </thead>
            <tbody>
              @for (revision of revisions(); track revision.number) {
                <tr
                  [class.chosen]="shown() === revision.number"
                  [attr.data-row]="revision.number"
                  (click)="shown.set(revision.number)"
                >
                  <td class="mono">
                    <button class="plain" (click)="shown.set(revision.number); $event.stopPropagation()">
                      {{ revision.number }}
                    </button>
                  </td>
                  <td>{{ revision.name }}</td>
                  <td class="mono">{{ revision.sites }}</td>
                  <td>{{ revision.by }}</td>
                  <td>{{ revision.at | date: 'd MMM y, HH:mm:ss' }}</td>
                </tr>
              }
            </tbody>
          </table>
        </section>
      }
      <ng-container ngProjectAs="[foot]">
        @if (beside(); as other) {
          <il-draft-compare-sheet [draft]="store.draft()!" [other]="other" (closed)="besideId.set(null)" />
        } @else if (shown(); as number) {
          <il-revision-sheet [number]="number" [revisions]="revisions()" (closed)="shown.set(null)" />
        }
      </ng-container>
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
    .head {
      padding: 12px 14px 6px;
    }
    .calm {
      padding: 10px 14px;
    }
    .how {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 12px;
      padding: 8px 14px;
      border-bottom: 1px solid var(--rule);
    }
    il-wave-list {
      display: block;
      border-bottom: 1px solid var(--rule);
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
  protected readonly otherDrafts = computed(() =>
    this.store.drafts().filter(({ id, state }) => id !== this.store.draft()?.id && state === 'open'),
  );
  /** Id of a draft that the one in front is held beside. */
  protected readonly besideId = anewFor<string | null>(
    () => this.store.draft()?.id,
    () => null,
  );
  protected readonly beside = computed(() => this.otherDrafts().find(({ id }) => id === this.besideId()));
  /** The revision in the sheet. */
  protected readonly shown = signal<number | null>(null);

  /** Those under way, which touch no common site. */
  protected readonly running = computed(() => this.rollouts().filter((rollout) => rollout.endedAt === null));
  protected readonly past = computed(() => this.rollouts().filter((rollout) => rollout.endedAt !== null));
  /** The last attempt at this draft, where it was put back. */
  protected readonly fellBack = computed(() => {
    const last = this.past().find(({ draftId }) => draftId === this.store.draft()?.id);
    return last?.state === 'put-back' ? last : null;
  });
  /** Whether nothing but the rollout under way is to be shown: the draft that is rolled out is the one in front. */
  protected readonly rolling = computed(() => this.store.draft()?.state === 'rolling-out');
  /** Whether the draft would say something else than what is live, somewhere. */
  protected readonly due = computed(() => {
    const draft = this.store.draft();
    return draft !== null && draft.state === 'open' && (draft.edits > 0 || draft.behind > 0);
  });
  protected readonly reviews = inject(DraftReviews);
  protected readonly counted = counted;
  /** Errors at all sites that it touches. */
  protected readonly errors = computed(() => this.reviews.reviews().reduce((sum, { counts }) => sum + counts.error, 0));
  /** Said anew for every edit: what was accepted was another state of the draft. */
  protected readonly despite = anewFor(
    () => this.store.draft()?.head,
    () => false,
  );
  /** The same of devices that somebody changed by hand. */
  protected readonly putRight = anewFor(
    () => this.store.draft()?.head,
    () => false,
  );
  /** What stands against it over all sites, asked anew for every edit. */
  private readonly checked = resource({
    params: () => {
      const draft = this.store.draft();
      const due = this.due() && this.reviews.whole();
      const underWay = this.running()
        .map(({ id }) => id)
        .join();
      return draft && due ? { id: draft.id, head: draft.head, devices: this.reviews.devices(), underWay } : undefined;
    },
    loader: ({ params }) => this.api.check(params.id),
  });
  protected readonly against = computed(() => (this.checked.hasValue() ? this.checked.value() : null));
  protected readonly cutSites = computed(() => cutSitesOf(this.against()));
  protected readonly reason = anewFor(
    () => this.store.draft()?.head,
    () => '',
  );
  protected readonly typed = anewFor<Readonly<Record<string, string>>>(
    () => this.store.draft()?.head,
    () => ({}),
  );
  protected readonly proposed = PROPOSED_PLAN;
  /** In which waves; null: all at once. */
  protected readonly plan = anewFor<WavePlan | null>(
    () => this.store.draft()?.id,
    () => null,
  );
  protected readonly toldSites = computed(() => this.reviews.reviews().filter(({ changes }) => changes.length > 0));
  /** Told anew for every edit, and when other devices would be told. */
  protected readonly foreseen = resource({
    params: () => {
      const [draft, plan] = [this.store.draft(), this.plan()];
      if (!draft || !plan || !this.due() || !this.reviews.whole()) return undefined;
      return { id: draft.id, head: draft.head, devices: this.reviews.devices(), plan };
    },
    loader: ({ params }) => this.api.foreseen(params.id, params.plan),
  });
  protected readonly waves = computed(() => (this.foreseen.hasValue() ? this.foreseen.value() : []));
  /** Whether all that stands against it has been answered. */
  protected readonly ready = computed(() => {
    const against = this.against();
    if (!this.reviews.whole() || !against || against.held.length > 0) return false; // never as if it were all
    const plan = this.plan();
    if (plan && (this.waves().length === 0 || (plan.by === 'share' && !plan.shares))) return false;
    if (this.errors() > 0 && !this.despite()) return false;
    if (against.drifted.length > 0 && !this.putRight()) return false;
    if (against.broken.length > 0 && this.reason().trim() === '') return false;
    return this.cutSites().every((name) => this.typed()[name]?.trim() === name);
  });
  protected readonly label = computed(() => {
    if (!this.reviews.whole()) {
      const { done, of } = this.reviews.progress();
      return this.reviews.touched() === null ? 'Looking…' : `Looking at ${done} of ${counted(of, 'site')}…`;
    }
    const count = this.reviews.devices();
    const waves = this.plan() ? this.waves().length : 0;
    return count === 0
      ? 'Roll out'
      : `Roll out to ${counted(count, 'device')}${waves > 0 ? ` in ${counted(waves, 'wave')}` : ''}`;
  });
  protected readonly request = computed((): RolloutRequest => ({
    draftId: this.store.draft()!.id,
    head: this.store.draft()!.head,
    despiteErrors: this.despite(),
    ...(this.putRight() ? { putRight: true } : {}),
    devices: this.reviews.devices(),
    ...(this.plan() ? { waves: this.plan()! } : {}),
    ...(this.reason().trim() ? { reason: this.reason().trim() } : {}),
    ...(this.cutSites().length > 0 ? { sites: this.cutSites() } : {}),
  }));
  protected readonly note = computed(() => {
    const revision = this.estate.estate()?.revision ?? 0;
    return revision === 0 ? 'Nothing has been rolled out yet' : `Revision ${revision} is live`;
  });

  protected async ask(id: string, what: Asked): Promise<void> {
    await this.store.attempt(async () => {
      await this.api.ask(id, what);
    });
  }
}
