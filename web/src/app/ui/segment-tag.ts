import { Component, input } from '@angular/core';
import type { SegmentMark } from '@iron-lattice/core/lattice';

/** A segment's letter on its colour. */
@Component({
  selector: 'il-segment-tag',
  template: `<span [style.background]="'var(--seg-' + mark().colour + ')'" aria-hidden="true">{{
    mark().letter
  }}</span>`,
  styles: `
    span {
      display: inline-grid;
      place-items: center;
      width: 18px;
      height: 18px;
      color: var(--sheet);
      font:
        600 11px/1 'JetBrains Mono',
        monospace;
    }
  `,
})
export class SegmentTag {
  readonly mark = input.required<SegmentMark>();
}
