import { DatePipe } from '@angular/common';
import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { VisitView } from '@iron-lattice/core/guests';
import { octetsWords } from '../../ui/octets-words';
import { stateWords } from '../visit-words';
import { DeskStore } from './desk-store';

const MOST_SHOWN = 100;
/** By how much a visit is made longer at a press, in minutes. */
const HOUR = 60;

/** Visits at the site in front, the latest first. */
@Component({
  selector: 'il-desk-visits',
  imports: [DatePipe, MatButtonModule],
  template: `
    <ul aria-label="Visits">
      @for (each of rows(); track each.id) {
        <li [class.faded]="each.endedAt !== null || each.state === 'over'">
          <div class="what">
            <b>{{
              each.code?.name || each.who?.said?.name || (each.way === 'accept' ? 'Pressed to accept' : 'A guest')
            }}</b>
            <span class="soft mono">{{ each.mac }}</span>
            <span [class.good]="each.state === 'in' && !each.blocked" [class.soft]="each.state !== 'in'">{{
              state(each)
            }}</span>
            <span class="soft">
              since {{ each.begun | date: 'd MMM HH:mm' }}, until
              {{ each.endedAt ?? each.until | date: 'd MMM HH:mm' }}, {{ octets(each.octets) }} taken
              @if (each.left !== null) {
                , {{ octets(each.left) }} left today
              }
            </span>
          </div>
          @if (each.endedAt === null) {
            <div class="acts">
              <button mat-stroked-button (click)="store.extendVisit(each.id, hour)">1 h longer</button>
              <button mat-stroked-button (click)="store.end([each.id])">End</button>
            </div>
          }
        </li>
      } @empty {
        <li class="soft">{{ empty() }}</li>
      }
    </ul>
    @if (matching().length > most) {
      <p class="soft">And {{ matching().length - most }} more: type a name or a device to find one.</p>
    }
  `,
  styleUrl: './desk-list.scss',
})
export class DeskVisits {
  protected readonly store = inject(DeskStore);
  readonly filter = input('');
  protected readonly most = MOST_SHOWN;
  protected readonly hour = HOUR;
  protected readonly octets = octetsWords;
  protected readonly state = stateWords;
  private readonly here = computed(() => this.store.visits().filter(({ siteId }) => siteId === this.store.site()?.id));
  protected readonly matching = computed((): readonly VisitView[] => {
    const text = this.filter().trim().toLowerCase();
    return this.here().filter(({ mac, code }) => `${mac} ${code?.name ?? ''}`.toLowerCase().includes(text));
  });
  protected readonly rows = computed(() => this.matching().slice(0, MOST_SHOWN));
  protected readonly empty = computed(() => {
    if (!this.store.known()) return 'Asking…';
    return this.here().length === 0 ? 'No guest has been let in here yet.' : 'No visit like that.';
  });
}
