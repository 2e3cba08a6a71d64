import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DraftView, TakeResult } from '@iron-lattice/core/assess';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { ComparedList } from './compared-list';
import { RolloutApi } from './rollout-api';

/** Edits that did not fit that are shown at once. */
const MOST_LEFT = 200;

/** The draft in front beside another one: what the other says otherwise, and its edits taken over into this one. */
@Component({
  selector: 'il-draft-compare-sheet',
  imports: [MatButtonModule, ComparedList, Sheet],
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
      <il-compared-list
        [compared]="compared.hasValue() ? compared.value() : null"
        [problem]="compared.error()?.message ?? null"
        [of]="key()"
        [heading]="'What sites share, in ' + other().name"
        [load]="siteOf"
      />
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
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
  protected readonly most = MOST_LEFT;
  protected readonly busy = signal(false);
  private readonly pair = computed(() => `${this.draft().id} ${this.other().id}`);
  protected readonly key = computed(() => `${this.pair()} ${this.draft().head} ${this.other().head}`);
  protected readonly result = anewFor<TakeResult | null>(this.pair, () => null);
  protected readonly compared = resource({
    params: () => ({ key: this.key(), from: this.draft().id, to: this.other().id }),
    loader: ({ params }) => this.api.compareDrafts(params.from, params.to),
  });
  protected readonly note = computed(() => {
    if (!this.compared.hasValue()) return '';
    const { sites, shared } = this.compared.value();
    return `${counted(shared.length, 'shared object')} and ${counted(sites.length, 'site')} differ`;
  });
  protected readonly siteOf = (siteId: string) => this.api.compareDraftsAt(this.draft().id, this.other().id, siteId);

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
