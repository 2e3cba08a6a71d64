import { Component, input, model } from '@angular/core';
import { counted } from '../ui/counted';

/** The frame of what a draft means: beside the work, and on a phone a bar below it that unfolds. */
@Component({
  selector: 'il-dock-frame',
  template: `
    <button class="bar" [attr.aria-expanded]="open()" aria-controls="consequences" (click)="open.set(!open())">
      <b>Consequences</b>
      <span [class.bad]="errors() > 0">{{ counted(errors(), 'error') }}</span>
      <span>{{ counted(devices(), 'device') }}</span>
      <span class="grow"></span>
      <span aria-hidden="true">{{ open() ? '▾' : '▴' }}</span>
    </button>
    <section id="consequences" [class.open]="open()" aria-label="Consequences" aria-live="polite">
      <header>
        <h2>Consequences</h2>
        <ng-content select="[beside]" />
      </header>
      <ng-content />
    </section>
  `,
  styles: `
    :host {
      width: 292px;
      flex: none;
      border-left: 1px solid var(--ink);
      background: var(--sheet);
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    .bar {
      display: none;
    }
    section {
      overflow: auto;
      flex: 1;
    }
    header {
      display: flex;
      justify-content: space-between;
      padding: 13px 14px 8px;
    }
    @media (max-width: 720px) {
      :host {
        width: 100%;
        border-left: 0;
        border-top: 1px solid var(--ink);
        max-height: 70dvh;
      }
      .bar {
        all: unset;
        display: flex;
        gap: 14px;
        padding: 11px 14px;
        cursor: pointer;
      }
      .bar:focus-visible {
        outline: 2px solid var(--iron);
        outline-offset: -2px;
      }
      section {
        display: none;
      }
      section.open {
        display: block;
        border-top: 1px solid var(--rule);
      }
      header {
        display: none;
      }
    }
  `,
})
export class DockFrame {
  /** Findings that are errors, and devices that would be told something, as far as the frame is folded. */
  readonly errors = input.required<number>();
  readonly devices = input.required<number>();
  /** On a phone: whether it is unfolded. */
  readonly open = model(false);
  protected readonly counted = counted;
}
