import { Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { Router, type Params } from '@angular/router';
import type { Finding } from '@iron-lattice/core/assess';
import { SessionStore } from '../session/session-store';
import { SeverityMark } from '../ui/severity-mark';
import { counted } from '../ui/counted';
import { DockFrame } from './dock-frame';
import { DraftReviews } from './draft-reviews';
import { Elsewhere } from './elsewhere';
import { FindingWay } from './finding-way';
import { MisfitList } from './misfit-list';
import { SiteStore } from './site-store';
import { siteStages, STAGES, type SiteStage } from './stage';

/** What the draft means: findings with their mends, and the devices that would be told something. */
@Component({
  selector: 'il-dock',
  imports: [MatButtonModule, DockFrame, Elsewhere, MisfitList, SeverityMark],
  template: `
    <il-dock-frame [errors]="errors()" [devices]="devices()" [(open)]="open">
      @if (store.lastEditMs(); as ms) {
        <span beside class="soft" title="From the last edit to its consequences on this page">{{ ms }} ms</span>
      }
      @if (store.consequences(); as all) {
        <dl>
          <div>
            <dt>{{ findings().length === 1 ? 'finding here' : 'findings here' }}</dt>
            <dd [class.bad]="errors() > 0" [class.good]="findings().length === 0">{{ findings().length }}</dd>
          </div>
          <div>
            <dt>{{ all.guarantees.length === 1 ? 'guarantee holds' : 'guarantees hold' }}</dt>
            <dd [class.bad]="holding() < all.guarantees.length" [class.good]="all.guarantees.length > 0">
              {{ holding() === all.guarantees.length ? holding() : holding() + ' of ' + all.guarantees.length }}
            </dd>
          </div>
          <div>
            <dt>{{ devices() === 1 ? 'device changes' : 'devices change' }}</dt>
            <dd>{{ devices() }}{{ reviews.whole() ? '' : '…' }}</dd>
          </div>
        </dl>
        @if (store.data()?.told; as told) {
          @if (told.by !== null) {
            <p class="calm caution">
              “{{ told.by }}” is being rolled out at this site and brings it up to date. This draft edits nothing here.
            </p>
          } @else if (told.behind) {
            <p class="calm caution">
              This site is behind: its devices were told
              {{ told.revision > 0 ? 'revision ' + told.revision : 'what it was founded with' }}. What is newer is told
              with the next rollout.
            </p>
          }
        }
        @if (mendable() > 1 && session.mayChange()) {
          <button class="all" mat-stroked-button (click)="toMends()">Mend all {{ mendable() }}…</button>
        }
        <il-misfit-list />
        @if (all.lockOuts.length > 0) {
          <article>
            <il-severity-mark severity="error" />
            <div>
              <b
                >{{ all.lockOuts.length === 1 ? all.lockOuts[0]!.name : all.lockOuts.length + ' devices' }} would be cut
                off</b
              >
              <p class="soft">
                {{ all.lockOuts[0]!.packet }} would not reach this controller. {{ all.lockOuts[0]!.why }}
              </p>
            </div>
          </article>
        }
        @for (finding of findings(); track finding.key) {
          <article>
            <il-severity-mark [severity]="finding.severity" />
            <div>
              <b>{{ finding.message }}</b>
              <p class="soft">{{ finding.reason }}</p>
              <button mat-stroked-button (click)="show(finding)">Show</button>
              @if (finding.mend; as mend) {
                @if (session.mayChange()) {
                  <button mat-stroked-button class="mend" (click)="store.mend(mend)">Mend: {{ mend.label }}</button>
                }
              }
            </div>
          </article>
        } @empty {
          <p class="calm"><span class="good">✓</span> Nothing is inconsistent here.</p>
        }
        @if (changes().length > 0) {
          <h3>Would be told something new here</h3>
          <ul>
            @for (change of changes(); track change.deviceId) {
              <li class="mono">
                {{ change.name }}
                <span class="soft">+{{ change.difference.added }} −{{ change.difference.removed }}</span>
              </li>
            }
          </ul>
          <button class="all" mat-stroked-button (click)="toRollout()">See every line</button>
        } @else {
          <p class="soft calm">No device here would hear anything new.</p>
        }
        <il-elsewhere (show)="show($event)" />
      }
    </il-dock-frame>
  `,
  styles: `
    :host {
      display: contents;
    }
    dl {
      display: grid;
      grid-template-columns: repeat(3, 1fr);
      margin: 0;
      border-block: 1px solid var(--rule);
    }
    dl div {
      display: flex;
      flex-direction: column-reverse;
      justify-content: flex-end;
      padding: 6px 14px 8px;
    }
    dl div + div {
      border-left: 1px solid var(--rule);
    }
    dt {
      color: var(--soft);
      font-size: 12px;
      line-height: 16px;
    }
    dd {
      margin: 0;
      font: 500 19px/24px Barlow;
    }
    article {
      display: flex;
      gap: 10px;
      padding: 11px 14px;
      border-bottom: 1px solid var(--rule);
    }
    article b {
      font-weight: 500;
      display: block;
      line-height: 17px;
    }
    article p {
      margin: 2px 0 7px;
      line-height: 16px;
      overflow-wrap: anywhere;
    }
    article button {
      margin: 0 5px 3px 0;
    }
    article .mend.mdc-button {
      height: auto;
      min-height: 28px;
      text-align: left;
      white-space: normal;
      line-height: 16px;
      padding-block: 4px;
    }
    h3 {
      font:
        600 12px/16px 'Barlow Semi Condensed',
        Barlow;
      color: var(--soft);
      padding: 12px 14px 4px;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0 14px;
    }
    li {
      display: flex;
      justify-content: space-between;
      line-height: 24px;
    }
    .all {
      margin: 8px 14px;
    }
    .calm {
      padding: 10px 14px;
    }
  `,
})
export class Dock {
  private readonly router = inject(Router);
  private readonly way = inject(FindingWay);
  private readonly stages = inject(STAGES);
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** On a phone: whether the drawer is up. */
  protected readonly open = signal(false);
  protected readonly findings = computed(() => this.store.consequences()?.findings ?? []);
  /** Findings with one right answer. */
  protected readonly mendable = computed(() => this.findings().filter((finding) => finding.mend).length);
  protected readonly errors = computed(() => this.findings().filter((finding) => finding.severity === 'error').length);
  protected readonly holding = computed(
    () => (this.store.consequences()?.guarantees ?? []).filter(({ state }) => state !== 'broken').length,
  );
  protected readonly changes = computed(() => this.store.changes());
  protected readonly reviews = inject(DraftReviews);
  protected readonly counted = counted;
  protected readonly devices = this.reviews.changing;

  protected async show(finding: Finding): Promise<void> {
    this.open.set(false);
    await this.way.to(finding);
  }

  /** Goes to the stage that shows all mends, or all changes. */
  private async toStage(shows: SiteStage['shows'], queryParams: Params = {}): Promise<void> {
    this.open.set(false);
    const stage = siteStages(this.stages).find((each) => each.shows === shows);
    if (stage) await this.router.navigate(['/sites', this.store.siteId(), stage.path], { queryParams });
  }

  /** Shows what all mends together would do. */
  protected readonly toMends = (): Promise<void> => this.toStage('mends', { mend: Date.now() });
  protected readonly toRollout = (): Promise<void> => this.toStage('changes');
}
