import { Component, computed, inject, signal } from '@angular/core';
import type { Finding } from '@iron-lattice/core/assess';
import { DockFrame } from './dock-frame';
import { DraftReviews } from './draft-reviews';
import { Elsewhere } from './elsewhere';
import { FindingWay } from './finding-way';
import { MisfitList } from './misfit-list';

/** What the draft means, where no site is in front: every site that it touches. */
@Component({
  selector: 'il-estate-dock',
  imports: [DockFrame, Elsewhere, MisfitList],
  template: `
    <il-dock-frame [errors]="errors()" [devices]="reviews.changing()" [(open)]="open">
      <il-misfit-list />
      <il-elsewhere (show)="show($event)" />
      @if (reviews.touched()?.length === 0) {
        <p class="soft calm">The draft says nothing else than what is live, at any site.</p>
      }
    </il-dock-frame>
  `,
  styles: `
    :host {
      display: contents;
    }
    .calm {
      padding: 0 14px 10px;
    }
  `,
})
export class EstateDock {
  private readonly way = inject(FindingWay);
  protected readonly reviews = inject(DraftReviews);
  protected readonly open = signal(false);
  protected readonly errors = computed(() => this.reviews.reviews().reduce((sum, { counts }) => sum + counts.error, 0));

  protected async show(finding: Finding): Promise<void> {
    this.open.set(false);
    await this.way.to(finding);
  }
}
