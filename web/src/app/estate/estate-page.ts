import { Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { Router, RouterLink } from '@angular/router';
import type { DeviceState, SiteView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { SiteStore } from '../shell/site-store';
import { Stage } from '../ui/stage';
import { StateMark } from '../ui/state-mark';
import { NewSiteSheet } from './new-site-sheet';

const STATES: readonly DeviceState[] = ['in step', 'behind', 'silent', 'stuck'];

/** All sites of the estate. */
@Component({
  selector: 'il-estate-page',
  imports: [MatButtonModule, RouterLink, Stage, StateMark, NewSiteSheet],
  template: `
    @if (store.estate(); as estate) {
      <il-stage [heading]="estate.name" [note]="note()">
        @if (session.mayChange()) {
          <button actions mat-stroked-button (click)="adding.set(true)">Add site</button>
        }
        <table class="grid">
          <caption class="visually-hidden">
            Sites
          </caption>
          <thead>
            <tr>
              <th>Site</th>
              <th>Short form</th>
              @for (state of states; track state) {
                <th class="count">{{ state }}</th>
              }
              <th class="wide">Country</th>
              <th class="wide">Time zone</th>
            </tr>
          </thead>
          <tbody>
            @for (site of estate.sites; track site.id) {
              <tr (click)="open(site)">
                <td>
                  <a [routerLink]="['/sites', site.id, 'intake']" (click)="$event.stopPropagation()">{{ site.name }}</a>
                </td>
                <td class="mono">{{ site.code }}</td>
                @for (state of states; track state) {
                  <td class="count">
                    @if (site.devices[state]; as count) {
                      <il-state-mark [state]="state" /> {{ count }}
                    } @else {
                      <span class="soft">–</span>
                    }
                  </td>
                }
                <td class="wide">{{ site.country }}</td>
                <td class="wide">{{ site.timeZone }}</td>
              </tr>
            } @empty {
              <tr class="empty">
                <td colspan="8">No site yet. Add the first one: a name, a country and a time zone are enough.</td>
              </tr>
            }
          </tbody>
        </table>
        @if (estate.calling > 0) {
          <p class="calling">
            <il-state-mark state="calling" /> {{ calling() }} Open the site they stand at, and claim them under Intake.
          </p>
        }
        <ng-container ngProjectAs="[foot]">
          @if (adding()) {
            <il-new-site-sheet (closed)="adding.set(false)" (added)="open($event)" />
          }
        </ng-container>
      </il-stage>
    } @else {
      <p class="loading soft" role="status">Fetching the estate…</p>
    }
  `,
  styles: `
    .loading,
    .calling {
      padding: 12px 14px;
    }
    td a {
      font-weight: 500;
    }
    .count {
      width: 76px;
    }
    il-new-site-sheet {
      flex: none;
    }
    @media (max-width: 720px) {
      .wide {
        display: none;
      }
      .count {
        width: auto;
      }
    }
  `,
})
export class EstatePage {
  private readonly router = inject(Router);
  protected readonly store = inject(EstateStore);
  protected readonly session = inject(SessionStore);
  protected readonly states = STATES;
  protected readonly adding = signal(false);
  protected readonly note = computed(() => {
    const estate = this.store.estate()!;
    const devices = estate.sites.flatMap((site) => Object.values(site.devices)).reduce((sum, count) => sum + count, 0);
    return `${estate.sites.length} sites, ${devices} devices, revision ${estate.revision}`;
  });
  protected readonly calling = computed(() => {
    const count = this.store.estate()!.calling;
    return count === 1 ? '1 device calls and is nobody’s yet.' : `${count} devices call and are nobody’s yet.`;
  });

  constructor() {
    inject(SiteStore).siteId.set(null);
  }

  protected async open(site: SiteView): Promise<void> {
    await this.router.navigate(['/sites', site.id, 'intake']);
  }
}
