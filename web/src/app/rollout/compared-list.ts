import { Component, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { IntentComparison, SiteComparison } from '@iron-lattice/core/assess';
import { anewFor } from '../ui/anew-for';
import { counted } from '../ui/counted';
import { ObjectList } from './object-list';
import { RevisionSite } from './revision-site';

/** Sites that are shown at once. */
const MOST_SITES = 200;

/** Two states of the estate beside each other: what sites share, and each site that says something else, looked into when it is opened. */
@Component({
  selector: 'il-compared-list',
  imports: [MatButtonModule, ObjectList, RevisionSite],
  template: `
    @if (problem(); as message) {
      <p class="bad line" role="alert">{{ message }}</p>
    } @else if (compared(); as found) {
      @if (found.shared.length > 0) {
        <h3>{{ heading() }}</h3>
        <il-object-list [objects]="found.shared" />
      }
      @for (site of found.sites.slice(0, most); track site.siteId) {
        <details (toggle)="toggle(site.siteId, $any($event.target).open)">
          <summary>
            <b>{{ site.name }}</b>
            <span class="soft">{{
              site.objects > 0 ? counted(site.objects, 'object') + ' of its own' : 'by what it shares'
            }}</span>
          </summary>
          @if (open().has(site.siteId)) {
            @if (back() && site.objects > 0) {
              <button mat-stroked-button class="back" [disabled]="busy()" (click)="took.emit(site.siteId)">
                {{ site.name }} {{ back() }}
              </button>
            }
            <il-revision-site [of]="of() + ' ' + site.siteId" [load]="loadOf(site.siteId)" />
          }
        </details>
      }
      @if (found.sites.length > most) {
        <p class="soft line">and {{ counted(found.sites.length - most, 'site') }} more</p>
      }
      @if (found.sites.length === 0 && found.shared.length === 0) {
        <p class="soft line">They say the same everywhere.</p>
      }
    } @else {
      <p class="soft line" role="status">Being compared…</p>
    }
  `,
  styles: `
    h3,
    .line {
      padding: 8px 14px 2px;
      margin: 0;
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
    .back {
      margin: 2px 14px 6px;
    }
  `,
})
export class ComparedList {
  /** Null: not known yet. */
  readonly compared = input.required<IntentComparison | null>();
  /** Why they could not be compared. */
  readonly problem = input<string | null>(null);
  /** Which two states they are: of others, sites are looked into anew. */
  readonly of = input.required<string>();
  readonly heading = input('What sites share');
  /** Looks into one site. */
  readonly load = input.required<(siteId: string) => Promise<SiteComparison>>();
  /** What a site can be made to be, such as “back to revision 3”; empty: nothing. */
  readonly back = input('');
  readonly busy = input(false);
  readonly took = output<string>();
  protected readonly counted = counted;
  protected readonly most = MOST_SITES;
  /** Sites that are looked into: what is not looked at is not compared. */
  protected readonly open = anewFor<ReadonlySet<string>>(this.of, () => new Set());
  protected readonly loadOf = (siteId: string) => (): Promise<SiteComparison> => this.load()(siteId);

  protected toggle(siteId: string, open: boolean): void {
    if (open) this.open.update((all) => new Set([...all, siteId]));
  }
}
