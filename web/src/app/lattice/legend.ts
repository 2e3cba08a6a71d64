import { Component } from '@angular/core';

/** What the glyphs of the weave mean. */
@Component({
  selector: 'il-legend',
  template: `
    <ul aria-label="Legend">
      <li>
        <svg viewBox="-8 -8 16 16"><rect x="-6" y="-6" width="12" height="12" fill="currentColor" /></svg>untagged
      </li>
      <li>
        <svg viewBox="-8 -8 16 16">
          <rect x="-5.5" y="-5.5" width="11" height="11" fill="none" stroke="currentColor" stroke-width="2" /></svg
        >tagged
      </li>
      <li>
        <svg viewBox="-8 -8 16 16">
          <path d="M-7 1a8 8 0 0 1 14 0" fill="none" stroke="currentColor" stroke-width="2" />
          <circle cy="3" r="2.4" fill="currentColor" /></svg
        >broadcast
      </li>
      <li>
        <svg viewBox="-8 -8 16 16"><path d="M0-7 7 0 0 7-7 0Z" fill="currentColor" /></svg>routed
      </li>
      <li>
        <svg viewBox="-8 -8 16 16"><rect x="-3" y="-7" width="6" height="14" fill="currentColor" /></svg>served
      </li>
      <li class="bad">
        <svg viewBox="-10 -10 20 20">
          <rect
            x="-8"
            y="-8"
            width="16"
            height="16"
            fill="none"
            stroke="currentColor"
            stroke-width="2"
            stroke-dasharray="3 2"
          />
          <path d="M-3-3 3 3M3-3-3 3" stroke="currentColor" stroke-width="2" /></svg
        >missing
      </li>
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
export class Legend {}
