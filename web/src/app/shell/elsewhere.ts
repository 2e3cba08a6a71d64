import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Finding, SiteReviewView } from '@iron-lattice/core/assess';
import { SessionStore } from '../session/session-store';
import { ProgressCount } from '../ui/progress-count';
import { SeverityMark } from '../ui/severity-mark';
import { counted } from '../ui/counted';
import { DraftReviews } from './draft-reviews';
import { MendEverywhere } from './mend-everywhere';
import { SiteStore } from './site-store';

/** Sites, findings of one site and devices of one site that are shown at once. */
const [MOST_SITES, MOST_FINDINGS, MOST_NAMES] = [100, 20, 12];

/** What the draft means at the other sites that it touches. */
@Component({
  selector: 'il-elsewhere',
  imports: [MatButtonModule, MendEverywhere, ProgressCount, SeverityMark],
  template: `
    @if (reviews.others() > 0) {
      <h3>{{ counted(reviews.others(), store.siteId() === null ? 'site' : 'other site') }}</h3>
      <p class="sum" role="status">
        {{ counted(findings(), 'finding') }} · {{ counted(devices(), 'device') }}
        {{ devices() === 1 ? 'changes' : 'change' }}
        @if (!reviews.whole()) {
          <il-progress-count
            [done]="reviews.progressElsewhere().done"
            [of]="reviews.progressElsewhere().of"
            what="sites looked at"
          />
        }
      </p>
      @if (mending(); as siteIds) {
        <il-mend-everywhere [siteIds]="siteIds" (closed)="mending.set(null)" />
      } @else if (session.mayChange() && mendable().length > 0) {
        <button mat-stroked-button class="again" (click)="mending.set(mendable())">
          Mend all at {{ counted(mendable().length, 'site') }}…
        </button>
      }
      @for (site of sites().slice(0, most); track site.siteId) {
        <details>
          <summary>
            <span class="name">{{ site.name }}</span>
            @if (site.counts.error > 0) {
              <span class="bad"><il-severity-mark severity="error" /> {{ site.counts.error }}</span>
            }
            @if (site.counts.warning > 0) {
              <span><il-severity-mark severity="warning" /> {{ site.counts.warning }}</span>
            }
            <span class="soft">{{ counted(site.changes.length, 'device') }}</span>
          </summary>
          @for (finding of site.findings.slice(0, mostFindings); track finding.key) {
            <div class="finding">
              <il-severity-mark [severity]="finding.severity" />
              <div>
                <b>{{ finding.message }}</b>
                <p class="soft">{{ finding.reason }}</p>
                <button mat-stroked-button (click)="show.emit(finding)">Show</button>
                @if (finding.mend && session.mayChange()) {
                  <button mat-stroked-button class="mend" (click)="store.mend(finding.mend)">
                    Mend: {{ finding.mend.label }}
                  </button>
                }
              </div>
            </div>
          }
          @if (more(site) > 0) {
            <p class="soft">and {{ counted(more(site), 'finding') }} more</p>
          }
          <p class="soft mono">{{ names(site) }}</p>
        </details>
      }
      @if (sites().length > most) {
        <p class="soft sum">and {{ counted(sites().length - most, 'site') }} more, under Rollout</p>
      }
    }
    @if (reviews.problem(); as problem) {
      <p class="flaw sum" role="alert">Other sites could not be looked at. {{ problem.message }}</p>
      <button mat-stroked-button class="again" (click)="reviews.ask()">Look again</button>
    }
  `,
  styles: `
    h3 {
      font:
        600 12px/16px 'Barlow Semi Condensed',
        Barlow;
      color: var(--soft);
      padding: 12px 14px 2px;
      border-top: 1px solid var(--rule);
    }
    .sum {
      padding: 0 14px 6px;
    }
    il-progress-count {
      display: flex;
      margin-top: 4px;
    }
    details {
      border-top: 1px solid var(--rule);
    }
    summary {
      display: flex;
      align-items: center;
      gap: 8px;
      padding: 5px 14px;
      cursor: pointer;
    }
    .name {
      flex: 1;
      font-weight: 500;
    }
    .finding {
      display: flex;
      gap: 10px;
      padding: 8px 14px;
    }
    .finding b {
      font-weight: 500;
      display: block;
      line-height: 17px;
    }
    .finding p {
      margin: 2px 0 6px;
      line-height: 16px;
      overflow-wrap: anywhere;
    }
    .finding button {
      margin: 0 5px 3px 0;
    }
    .finding .mend.mdc-button {
      height: auto;
      min-height: 28px;
      text-align: left;
      white-space: normal;
      line-height: 16px;
      padding-block: 4px;
    }
    details > p {
      padding: 0 14px 8px;
    }
    .again {
      margin: 0 14px 8px;
    }
  `,
})
export class Elsewhere {
  protected readonly reviews = inject(DraftReviews);
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly show = output<Finding>();
  protected readonly counted = counted;
  protected readonly most = MOST_SITES;
  protected readonly mostFindings = MOST_FINDINGS;
  /** The worst first. */
  protected readonly sites = computed(() =>
    [...this.reviews.elsewhere()].sort(
      (a, b) =>
        b.counts.error - a.counts.error ||
        b.counts.warning - a.counts.warning ||
        b.changes.length - a.changes.length ||
        (a.name < b.name ? -1 : 1),
    ),
  );
  protected readonly findings = computed(() => this.sites().reduce((sum, site) => sum + all(site), 0));
  protected readonly devices = computed(() => this.sites().reduce((sum, { changes }) => sum + changes.length, 0));

  /** Sites with a finding that has one right answer; here as well, once the site in front is not the only one. */
  protected readonly mendable = computed(() =>
    this.reviews
      .reviews()
      .filter(({ findings }) => findings.some(({ mend }) => mend))
      .map(({ siteId }) => siteId),
  );
  /** Sites whose mends are being looked at; null: none. */
  protected readonly mending = signal<readonly string[] | null>(null);

  protected more(site: SiteReviewView): number {
    return all(site) - Math.min(site.findings.length, MOST_FINDINGS);
  }

  protected names({ changes }: SiteReviewView): string {
    if (changes.length === 0) return 'No device would hear anything new.';
    const names = changes.slice(0, MOST_NAMES).map(({ name }) => name);
    return `${names.join(', ')}${changes.length > MOST_NAMES ? ` and ${changes.length - MOST_NAMES} more` : ''}`;
  }
}

const all = ({ counts }: SiteReviewView): number => counts.error + counts.warning + counts.info;
