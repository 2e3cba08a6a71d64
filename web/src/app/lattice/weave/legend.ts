import { Component } from '@angular/core';
import type { Crossing } from '@iron-lattice/core/lattice';
import { Glyph } from './glyph';

const KINDS: readonly Crossing[] = [
  'untagged',
  'tagged',
  'asked',
  'tunnel',
  'broadcast',
  'routed',
  'served',
  'missing',
];

/** What the glyphs of the weave mean. */
@Component({
  selector: 'il-legend',
  imports: [Glyph],
  template: `
    <ul aria-label="Legend">
      @for (kind of kinds; track kind) {
        <li [class.bad]="kind === 'missing'"><svg il-glyph [crossing]="kind" />{{ words[kind] ?? kind }}</li>
      }
    </ul>
  `,
  styles: `
    ul {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 26px;
      list-style: none;
      margin: 0;
      padding: 14px;
      color: var(--soft);
      position: sticky;
      left: 0;
    }
    li {
      display: flex;
      align-items: center;
      gap: 7px;
    }
    svg {
      width: 14px;
      height: 14px;
    }
  `,
})
export class Legend {
  protected readonly kinds = KINDS;
  protected readonly words: Partial<Record<Crossing, string>> = {
    asked: 'by who it is',
    tunnel: 'in a tunnel',
  };
}
