import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { IfServerDies } from '@iron-lattice/core/bench';
import type { RadiusServer } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { counted } from '../ui/counted';
import { HealthStore, healthWords } from './health-store';

/** How a server fares at the site in front, and what happens there when it does not answer any more. */
@Component({
  selector: 'il-server-if-dead',
  imports: [MatButtonModule, Cell],
  template: `
    <il-cell label="Is it there" size="wide" [hint]="silentWords()">
      <div class="value" [class.flaw]="silent()">{{ words() }}</div>
    </il-cell>
    <il-cell label="What if it dies now" size="wide" [flaw]="live.problem()?.message">
      @if (!asked()) {
        <button mat-button type="button" (click)="asked.set(true)">Rehearse it</button>
      } @else if (live.value(); as told) {
        <ul aria-label="What if it dies now">
          @for (row of told.rows; track row.where) {
            <li [class.caution]="row.next === null">
              <b>{{ row.where }}</b>: {{ row.words }}
            </li>
          } @empty {
            <li>Nothing here asks it: nobody would notice.</li>
          }
        </ul>
        @if (told.standing > 0) {
          <p class="soft">{{ counted(told.standing, 'client') }} here now by its word: they stay until asked anew.</p>
        }
      } @else if (!live.problem()) {
        <p class="soft" role="status">Working it out…</p>
      }
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    p {
      margin: 0;
    }
  `,
})
export class ServerIfDead {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly health = inject(HealthStore);
  readonly server = input.required<RadiusServer>();
  protected readonly asked = signal(false);
  protected readonly counted = counted;
  protected readonly live = liveFetch({
    of: () => {
      const [draft, siteId, { id }] = [this.store.draft(), this.store.siteId(), this.server()];
      return draft && siteId && this.asked()
        ? { url: `/api/drafts/${draft.id}/sites/${siteId}/radius/${id}/if-dead`, of: [draft.head, draft.edits] }
        : undefined;
    },
    fetch: ({ url }) => firstValueFrom(this.http.get<IfServerDies>(url)),
    when: ({ type }) => type === 'site',
    stays: true,
  });
  private readonly fares = computed(() => this.health.of(this.server().name));
  protected readonly silent = computed(() => (this.fares()?.silentFor.length ?? 0) > 0);
  protected readonly words = computed(() => healthWords(this.fares()) || 'Nobody here asked it lately');
  protected readonly silentWords = computed(() => {
    const silent = this.fares()?.silentFor ?? [];
    return silent.length === 0
      ? ''
      : `No answer to ${silent.slice(0, 5).join(', ')}${silent.length > 5 ? ' and others' : ''}`;
  });
}
