import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { writeCalendar } from '@iron-lattice/core/formats';
import type { Hours, Ssid } from '@iron-lattice/core/intent';
import { HALF_HOURS, halfHoursOf, writeTimes } from '@iron-lattice/core/rules';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { saveFile } from '../ui/export-rows';
import type { OpenedRow } from '../ui/opened-row';
import { WeekStrip } from '../ui/week-strip';
import { hoursUsers } from './hours-users';

const [ALWAYS, NEVER] = [true, false].map((on) => Array.from({ length: HALF_HOURS }, () => on)) as [
  boolean[],
  boolean[],
];

/** Hours that things apply at, and the weeks of SSIDs beside each other. */
@Component({
  selector: 'il-hours-view',
  imports: [MatButtonModule, WeekStrip],
  template: `
    <table class="grid" (keydown)="opened().onKey($event)">
      <caption class="visually-hidden">
        Hours
      </caption>
      <thead>
        <tr>
          <th>Hours</th>
          <th class="week">Mon to Sun, by each site’s own clock</th>
          <th class="second">In words</th>
          <th>Used by</th>
          <th class="second">Days left out</th>
        </tr>
      </thead>
      <tbody>
        @for (hours of all(); track hours.id) {
          <tr [class.chosen]="opened().id() === hours.id" [attr.data-row]="hours.id" (click)="opened().open(hours.id)">
            <td>
              <button class="plain name">{{ hours.name }}</button>
            </td>
            <td class="week"><il-week-strip [value]="halves(hours)" [label]="words(hours)" /></td>
            <td class="second">{{ words(hours) }}</td>
            <td>{{ users(hours) || 'none yet' }}</td>
            <td class="second">{{ hours.closed?.length ?? 0 }}</td>
          </tr>
        } @empty {
          <tr class="empty">
            <td colspan="5" class="soft">
              No hours yet. Add some: a name, and a week painted by half hours. SSIDs that use them are off the air at
              all other times, rules are not in force, and nothing passes ports.
            </td>
          </tr>
        }
      </tbody>
    </table>
    @if (ssids().length > 0) {
      <section aria-labelledby="weeks-heading">
        <header>
          <h2 id="weeks-heading">SSIDs beside each other</h2>
          @if (all().length > 0) {
            <button mat-button (click)="export()">iCalendar of all hours</button>
          }
        </header>
        <table class="grid">
          <caption class="visually-hidden">
            Weeks of SSIDs
          </caption>
          <tbody>
            @for (ssid of ssids(); track ssid.id) {
              <tr>
                <td class="name">{{ ssid.name }}</td>
                <td class="week"><il-week-strip [value]="weekOf(ssid)" [label]="ssid.name + ': ' + when(ssid)" /></td>
                <td [class.caution]="ssid.off">{{ when(ssid) }}</td>
              </tr>
            }
          </tbody>
        </table>
      </section>
    }
  `,
  styles: `
    .name {
      font-weight: 500;
    }
    .week {
      width: 44%;
    }
    header {
      display: flex;
      align-items: center;
      gap: 12px;
      padding: 18px 14px 4px;
    }
    h2 {
      margin: 0;
      flex: 1;
    }
    @media (max-width: 720px) {
      .second {
        display: none;
      }
    }
  `,
})
export class HoursView {
  private readonly shared = inject(SharedStore);
  private readonly store = inject(SiteStore);
  readonly opened = input.required<OpenedRow<Hours>>();
  protected readonly all = computed(() => this.shared.estate()?.hours ?? []);
  protected readonly ssids = computed(() =>
    this.shared.atEstate() ? (this.shared.estate()?.ssids ?? []) : this.store.ssids(),
  );
  private readonly byId = computed(() => new Map(this.all().map((hours) => [hours.id, hours])));

  protected halves = (hours: Hours): boolean[] => halfHoursOf(hours.times);
  protected words = (hours: Hours): string => writeTimes(hours.times);
  protected users = ({ id }: Hours): string =>
    hoursUsers(id, this.shared.estate(), this.shared.atEstate() ? null : this.store.site());

  protected weekOf(ssid: Ssid): boolean[] {
    if (ssid.off) return NEVER;
    const hours = this.byId().get(ssid.hours ?? '');
    return hours ? this.halves(hours) : ALWAYS;
  }

  protected when(ssid: Ssid): string {
    if (ssid.off) return 'switched off';
    return this.byId().get(ssid.hours ?? '')?.name ?? 'always';
  }

  protected export(): void {
    saveFile('hours.ics', new Blob([writeCalendar(this.all(), Date.now())], { type: 'text/calendar' }));
  }
}
