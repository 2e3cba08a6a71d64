import { Component, inject } from '@angular/core';
import { DraftReviews } from './draft-reviews';
import { Elsewhere } from './elsewhere';
import { FindingWay } from './finding-way';

/** What the draft means, where no site is in front: every site that it touches. */
@Component({
  selector: 'il-estate-dock',
  imports: [Elsewhere],
  template: `
    <section aria-label="Consequences" aria-live="polite">
      <h2>Consequences</h2>
      <il-elsewhere (show)="way.to($event)" />
      @if (reviews.touched()?.length === 0) {
        <p class="soft calm">The draft says nothing else than what is live, at any site.</p>
      }
    </section>
  `,
  styles: `
    :host {
      width: 292px;
      flex: none;
      border-left: 1px solid var(--ink);
      background: var(--sheet);
      min-height: 0;
      overflow: auto;
    }
    h2 {
      padding: 13px 14px 8px;
    }
    .calm {
      padding: 0 14px 10px;
    }
    @media (max-width: 720px) {
      :host {
        width: 100%;
        border-left: 0;
        border-top: 1px solid var(--ink);
        max-height: 40dvh;
      }
    }
  `,
})
export class EstateDock {
  protected readonly reviews = inject(DraftReviews);
  protected readonly way = inject(FindingWay);
}
