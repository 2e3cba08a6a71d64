import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DraftView, TakeResult } from '@iron-lattice/core/assess';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { ObjectList } from './object-list';
import { RevisionSite } from './revision-site';
import { RolloutApi } from './rollout-api';

/** Sites that are shown at once. */
const MOST_SITES = 200;

/** The draft in front beside another one: what the other says otherwise, and its edits taken over into this one. */
@Component({
  selector: 'il-draft-compare-sheet',
  imports: [MatButtonModule, ObjectList, RevisionSite, Sheet],
  template: `
    <il-sheet [heading]="draft().name + ' beside ' + other().name" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && draft().state === 'open') {
        <button actions mat-flat-button [disabled]="busy() || other().edits === 0" (click)="take()">
          Take over {{ counted(other().edits, 'edit') }} of {{ other().name }}
        </button>
      }
      @if (result(); as found) {
        <section aria-label="What was taken over">
          <p role="status">
            {{ counted(found.taken, 'edit') }} taken over into {{ found.draft.name }}.
            @if (found.left.length > 0) {
              {{ counted(found.left.length, 'edit') }} did not fit:
            }
          </p>
          <ul>
            @for (each of found.left.slice(0, most); track each.number) {
              <li>
                <span>{{ each.words }}</span> <span class="soft">{{ each.why }}</span>
                @if (each.again && session.mayChange()) {
                  <button mat-stroked-button [disabled]="busy()" (click)="take([each.number])">
                    Theirs all the same
                  </button>
                }
              </li>
            }
          </ul>
        </section>
      }
      @if (compared.hasValue()) {
        @if (compared.value().shared.length > 0) {
          <h3>What sites share, in {{ other().name }}</h3>
          <il-object-list [objects]="compared.value().shared" />
        }
        @for (site of compared.value().sites.slice(0, most); track site.siteId) {
          <details (toggle)="toggle(site.siteId, $any($event.target).open)">
            <summary>
              <b>{{ site.name }}</b>
              <span class="soft">{{
                site.objects > 0 ? counted(site.objects, 'object') + ' of its own' : 'by what it shares'
              }}</span>
            </summary>
            @if (open().has(site.siteId)) {
              <il-revision-site [of]="key() + ' ' + site.siteId" [load]="siteOf(site.siteId)" />
            }
          </details>
        }
        @if (compared.value().sites.length > most) {
          <p class="soft line">and {{ counted(compared.value().sites.length - most, 'site') }} more</p>
        }
        @if (compared.value().sites.length === 0 && compared.value().shared.length === 0) {
          <p class="soft line">They say the same everywhere.</p>
        }
      } @else if (compared.error(); as problem) {
        <p class="bad line" role="alert">{{ $any(problem).message }}</p>
      } @else {
        <p class="soft line" role="status">Being compared…</p>
      }
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    h3,
    .line,
    section {
      padding: 8px 14px 2px;
      margin: 0;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 10px;
    }
    details {
      border-top: 1px solid var(--rule);
    }
    summary {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 12px;
      padding: 6px 14px;
      cursor: pointer;
    }
  `,
})
export class DraftCompareSheet {
  private readonly api = inject(RolloutApi);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** The one in front. */
  readonly draft = input.required<DraftView>();
  readonly other = input.required<DraftView>();
  readonly closed = output<void>();
  protected readonly counted = counted;
  protected readonly most = MOST_SITES;
  protected readonly busy = signal(false);
  private readonly pair = computed(() => `${this.draft().id} ${this.other().id}`);
  protected readonly key = computed(() => `${this.pair()} ${this.draft().head} ${this.other().head}`);
  protected readonly result = anewFor<TakeResult | null>(this.pair, () => null);
  protected readonly compared = resource({
    params: () => ({ key: this.key(), from: this.draft().id, to: this.other().id }),
    loader: ({ params }) => this.api.compareDrafts(params.from, params.to),
  });
  /** Sites that are looked into: what is not looked at is not compared. */
  protected readonly open = anewFor<ReadonlySet<string>>(this.pair, () => new Set());
  protected readonly note = computed(() => {
    if (!this.compared.hasValue()) return '';
    const { sites, shared } = this.compared.value();
    return `${counted(shared.length, 'shared object')} and ${counted(sites.length, 'site')} differ`;
  });
  protected readonly siteOf = (siteId: string) => () =>
    this.api.compareDraftsAt(this.draft().id, this.other().id, siteId);

  protected toggle(siteId: string, open: boolean): void {
    if (open) this.open.update((all) => new Set([...all, siteId]));
  }

  /** @param only those that are made all the same; absent: all, as far as they fit. */
  protected async take(only?: readonly number[]): Promise<void> {
    this.busy.set(true);
    await this.store.attempt(async () => {
      const asked = { from: this.other().id, ...(only ? { only, despite: true } : {}) };
      const found = await this.api.take(this.draft().id, asked);
      const before = this.result();
      const left = only && before ? before.left.filter(({ number }) => !only.includes(number)) : found.left;
      this.result.set({ ...found, taken: found.taken + (only && before ? before.taken : 0), left: [...left] });
      await this.store.reload();
    });
    this.busy.set(false);
  }
}
