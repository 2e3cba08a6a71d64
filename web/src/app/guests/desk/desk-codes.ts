import { lastsWords } from '@iron-lattice/core/base';
import { DatePipe } from '@angular/common';
import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeskCode } from '@iron-lattice/core/guests';
import { counted } from '../../ui/counted';
import { DeskStore } from './desk-store';

/** Rows that are drawn at once. */
const MOST_SHOWN = 100;
/** By how much a code is made longer at a press, in minutes. */
const DAY = 1440;
const STATES: Readonly<Record<DeskCode['state'], string>> = {
  unused: 'not used yet',
  used: 'in use',
  over: 'over',
  revoked: 'taken back',
};

/** Codes that open the site in front, the latest first. */
@Component({
  selector: 'il-desk-codes',
  imports: [DatePipe, MatButtonModule],
  template: `
    <ul aria-label="Visit codes">
      @for (each of rows(); track each.id) {
        <li [class.faded]="each.state === 'over' || each.state === 'revoked'">
          <div class="what">
            <b>{{ each.name || 'A guest' }}</b>
            <span class="soft mono">…{{ each.hint }}</span>
            <span [class.good]="each.state === 'used'" [class.soft]="each.state !== 'used'">{{ state(each) }}</span>
            <span class="soft">
              @if (each.until) {
                until {{ each.until | date: 'd MMM HH:mm' }},
              } @else {
                {{ words(each.minutes) }} from first use,
              }
              {{ devices(each) }}
            </span>
          </div>
          @if (each.own) {
            <div class="acts">
              @if (each.state === 'revoked') {
                <button mat-stroked-button (click)="store.restore(each)">Bring back</button>
              } @else {
                <button mat-stroked-button (click)="show(each)">Show again</button>
                <button mat-stroked-button (click)="store.extendCode(each, day)">1 d longer</button>
                <button mat-stroked-button (click)="store.revoke(each)">Take back</button>
              }
            </div>
          } @else {
            <p class="soft elsewhere">Opens other sites too: whoever runs the network changes it.</p>
          }
        </li>
      } @empty {
        <li class="soft">{{ empty() }}</li>
      }
    </ul>
    @if (matching().length > most) {
      <p class="soft">And {{ matching().length - most }} more: type what they are for to find one.</p>
    }
  `,
  styleUrl: './desk-list.scss',
})
export class DeskCodes {
  protected readonly store = inject(DeskStore);
  /** What somebody types to find one. */
  readonly filter = input('');
  protected readonly most = MOST_SHOWN;
  protected readonly day = DAY;
  protected readonly words = lastsWords;
  protected readonly devices = ({ devices, most }: DeskCode): string =>
    most === null ? counted(devices.length, 'device') : `${devices.length} of ${counted(most, 'device')}`;
  protected readonly state = ({ state }: DeskCode): string => STATES[state];
  private readonly here = computed(() =>
    this.store.codes().filter(({ siteIds }) => siteIds === null || siteIds.includes(this.store.site()?.id ?? '')),
  );
  protected readonly matching = computed(() => {
    const text = this.filter().trim().toLowerCase();
    return this.here().filter(({ name, hint }) => `${name} ${hint}`.toLowerCase().includes(text));
  });
  protected readonly rows = computed(() => this.matching().slice(0, MOST_SHOWN));
  protected readonly empty = computed(() => {
    if (!this.store.known()) return 'Asking…';
    return this.here().length === 0 ? 'No code yet. Make the first one.' : 'No code like that.';
  });

  protected async show(code: DeskCode): Promise<void> {
    if (await this.store.show([code])) document.querySelector('il-desk-given')?.scrollIntoView({ block: 'nearest' });
  }
}
