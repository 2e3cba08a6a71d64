import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import type { GatewayRow } from './path-rows';
import { PathsStore } from './paths-store';
import { publicationRows } from './publication-rows';

/** What people outside reach at a gateway’s uplinks. */
@Component({
  selector: 'il-publications-list',
  imports: [MatButtonModule],
  template: `
    <div class="head">
      <h3>Published</h3>
      <span class="soft"
        >What people outside reach, and nothing else. What it exposes stands under Rules, in Reach.</span
      >
      @if (session.mayChange() && gateway().uplinks.length > 0) {
        <button mat-stroked-button type="button" (click)="picked.emit('published-new:' + gateway().device.id)">
          Publish a port
        </button>
      }
    </div>
    <ul [attr.aria-label]="'Published by ' + gateway().device.name">
      @for (row of rows(); track row.publication.id) {
        <li>
          <button
            type="button"
            class="row"
            [class.off]="row.publication.off"
            [attr.aria-pressed]="shown() === 'published:' + row.publication.id"
            (click)="picked.emit('published:' + row.publication.id)"
          >
            <b>{{ row.publication.name }}</b>
            <span
              ><span class="mono">{{ row.asked }}</span> at {{ row.at.join(', ') || 'no uplink' }}</span
            >
            <span class="mono">→ {{ row.leads }}</span>
            <span>{{ row.whom }}</span>
            <span class="soft">{{ row.now }}</span>
          </button>
        </li>
      } @empty {
        <li class="soft none">
          Nothing: nobody outside begins anything with the inside. Publish a port for, say, a ticket shop that stands
          here.
        </li>
      }
    </ul>
  `,
  styles: `
    .head {
      display: flex;
      align-items: center;
      gap: 10px;
      flex-wrap: wrap;
      padding: 4px 14px;
    }
    .head .soft {
      flex: 1;
    }
    h3 {
      font-size: 13px;
      font-weight: 600;
      line-height: 18px;
      margin: 0;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0 14px 10px;
    }
    .none,
    .row {
      border-top: 1px solid var(--rule);
    }
    .none {
      padding: 6px 0;
    }
    .row {
      width: 100%;
      display: grid;
      grid-template-columns: minmax(90px, 1fr) minmax(0, 2fr) minmax(0, 1.2fr) minmax(0, 1.6fr) minmax(0, 1fr);
      gap: 10px;
      padding: 6px 0;
      font: inherit;
      line-height: 17px;
      color: inherit;
      text-align: left;
      background: none;
      border-width: 1px 0 0;
      cursor: pointer;
    }
    .row:hover,
    .row[aria-pressed='true'] {
      background: var(--tint);
    }
    .row > * {
      overflow-wrap: anywhere;
    }
    .off {
      color: var(--soft);
    }
    @media (max-width: 720px) {
      .row {
        grid-template-columns: minmax(0, 1fr);
        gap: 2px;
      }
    }
  `,
})
export class PublicationsList {
  protected readonly session = inject(SessionStore);
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly paths = inject(PathsStore);
  readonly gateway = input.required<GatewayRow>();
  /** What has its sheet open. */
  readonly shown = input<string | null>(null);
  /** `published:ID`, or `published-new:DEVICE`. */
  readonly picked = output<string>();
  protected readonly rows = computed(() => {
    const site = this.store.site();
    return site ? publicationRows(site, this.gateway(), this.paths.hits(), this.shared.estate()?.hours) : [];
  });
}
