import { Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { Router, RouterLink } from '@angular/router';
import type { DeviceState, SiteView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { SeverityMark } from '../ui/severity-mark';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { StateMark } from '../ui/state-mark';
import { NewSiteSheet } from './new-site-sheet';
import { SiteFindingsStore } from './site-findings';
import { SiteListSheet } from './site-list-sheet';
import { SiteSheet } from './site-sheet';

const STATES: readonly DeviceState[] = ['in step', 'behind', 'silent', 'stuck', 'expected'];
type Foot = 'add' | 'list' | null;

/** All sites of the estate, with what waits at each. */
@Component({
  selector: 'il-estate-page',
  providers: [SiteFindingsStore],
  imports: [MatButtonModule, RouterLink, SeverityMark, Stage, StateMark, NewSiteSheet, SiteListSheet, SiteSheet],
  template: `
    @if (store.estate(); as estate) {
      <il-stage [heading]="estate.name" [note]="note()">
        @if (tags().length > 0) {
          <div actions class="choices" role="group" aria-label="Tags">
            <button type="button" [attr.aria-pressed]="tag() === ''" (click)="tag.set('')">All</button>
            @for (each of tags(); track each) {
              <button type="button" [attr.aria-pressed]="tag() === each" (click)="tag.set(tag() === each ? '' : each)">
                {{ each }}
              </button>
            }
          </div>
        }
        @if (session.mayChange()) {
          <ng-container ngProjectAs="[actions]">
            <button mat-stroked-button (click)="openFoot('list')">Sites from a list</button>
            <button mat-flat-button (click)="openFoot('add')">Add site</button>
          </ng-container>
        }
        <table class="grid" (keydown)="opened.onKey($event)">
          <caption class="visually-hidden">
            Sites
          </caption>
          <thead>
            <tr>
              <th>Site</th>
              <th class="found">Findings</th>
              <th class="wide">Short form</th>
              @for (state of states; track state) {
                <th class="count" [class.wide]="state === 'expected'">{{ state }}</th>
              }
              <th class="wide">Drafts waiting</th>
              <th class="wide">Hitches</th>
              <th class="wide">Tags</th>
              <th class="wide">Country</th>
              <th class="wide">Time zone</th>
            </tr>
          </thead>
          <tbody>
            @for (site of sites(); track site.id) {
              <tr
                (click)="opened.open(site.id); foot.set(null)"
                [class.chosen]="opened.id() === site.id"
                [attr.data-row]="site.id"
              >
                <td>
                  <a [routerLink]="['/sites', site.id, 'intake']" (click)="$event.stopPropagation()">{{ site.name }}</a>
                </td>
                <td class="found">
                  @if (findings.bySite().get(site.id); as found) {
                    @if (found.errors > 0) {
                      <span><il-severity-mark severity="error" /> {{ found.errors }}</span>
                    }
                    @if (found.warnings > 0) {
                      <span><il-severity-mark severity="warning" /> {{ found.warnings }}</span>
                    }
                    @if (found.errors + found.warnings === 0) {
                      <span class="soft">–</span>
                    }
                  } @else {
                    <span class="soft" title="Being looked at">…</span>
                  }
                </td>
                <td class="mono wide">{{ site.code }}</td>
                @for (state of states; track state) {
                  <td class="count" [class.wide]="state === 'expected'">
                    @if (site.devices[state]; as count) {
                      <il-state-mark [state]="state" /> {{ count }}
                    } @else {
                      <span class="soft">–</span>
                    }
                  </td>
                }
                <td class="wide" [class.info]="site.drafts > 0">{{ site.drafts || '–' }}</td>
                <td class="wide" [class.caution]="site.hitches > 0">{{ site.hitches || '–' }}</td>
                <td class="wide soft">{{ site.tags.join(', ') }}</td>
                <td class="wide">{{ site.country }}</td>
                <td class="wide">{{ site.timeZone }}</td>
              </tr>
            } @empty {
              <tr class="empty">
                <td colspan="13">
                  No site yet. Add the first one: a name, a country and a time zone are enough. Or bring a list of all
                  of them.
                </td>
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
          @if (foot() === 'add') {
            <il-new-site-sheet [from]="copyOf()" (closed)="foot.set(null)" (added)="open($event)" />
          } @else if (foot() === 'list') {
            <il-site-list-sheet (closed)="foot.set(null)" />
          } @else if (opened.row(); as site) {
            <il-site-sheet [site]="site" (closed)="opened.close()" (copied)="copy($event)" />
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
    .found {
      width: 90px;
      white-space: nowrap;
    }
    .found span {
      margin-right: 6px;
    }
    il-new-site-sheet,
    il-site-list-sheet,
    il-site-sheet {
      display: contents;
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
  protected readonly findings = inject(SiteFindingsStore);
  protected readonly states = STATES;
  protected readonly foot = signal<Foot>(null);
  protected readonly copyOf = signal<SiteView | null>(null);
  protected readonly tag = signal('');
  protected readonly tags = computed(() =>
    [...new Set(this.store.estate()?.sites.flatMap((site) => site.tags) ?? [])].sort(),
  );
  protected readonly sites = computed(() => {
    const tag = this.tag();
    return (this.store.estate()?.sites ?? []).filter((site) => tag === '' || site.tags.includes(tag));
  });
  protected readonly opened = new OpenedRow({ rows: this.sites });
  protected readonly note = computed(() => {
    const estate = this.store.estate()!;
    const devices = estate.sites.flatMap((site) => Object.values(site.devices)).reduce((sum, count) => sum + count, 0);
    return `${estate.sites.length} sites, ${devices} devices, revision ${estate.revision}`;
  });
  protected readonly calling = computed(() => {
    const count = this.store.estate()!.calling;
    return count === 1 ? '1 device calls and is nobody’s yet.' : `${count} devices call and are nobody’s yet.`;
  });

  protected openFoot(foot: Foot): void {
    this.copyOf.set(null);
    this.foot.set(foot);
  }

  protected copy(site: SiteView): void {
    this.copyOf.set(site);
    this.foot.set('add');
  }

  protected async open(site: SiteView): Promise<void> {
    await this.router.navigate(['/sites', site.id, 'intake']);
  }
}
