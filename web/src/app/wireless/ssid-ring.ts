import { Component, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import type { Ssid } from '@iron-lattice/core/intent';
import { Cell } from '../ui/cell';
import { counted } from '../ui/counted';
import { SharedStore } from '../shell/shared-store';

/** Where the keys of an SSID are, in its sheet. */
@Component({
  selector: 'il-ssid-ring',
  imports: [MatButtonModule, RouterLink, Cell],
  template: `
    <il-cell label="Keys" hint="Kept beside the draft: each acts at once, and is taken back at once.">
      @if (ssid(); as ssid) {
        <a mat-stroked-button [routerLink]="[]" [queryParams]="{ as: 'keys', ring: ssid.id, show: null }">
          Keys of this ring
        </a>
        <p class="hint">{{ words(ssid) }}</p>
      } @else {
        <div class="value">Add the SSID first; its keys are made under Keys.</div>
      }
    </il-cell>
  `,
  styles: ':host { display: contents; }',
})
export class SsidRing {
  protected readonly shared = inject(SharedStore);
  readonly ssid = input.required<Ssid | null>();
  protected words = ({ ring, segment }: Ssid): string =>
    ring && ring.length > 0
      ? `They may lead to ${segment} and ${counted(ring.length, 'other segment')}.`
      : `They lead to ${segment}; others come with keys that are made for them.`;
}
