import { Component, ElementRef, afterRenderEffect, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';

/** What waits at a station. */
export interface Waiting {
  readonly count: number;
  readonly tone: 'info' | 'bad';
  readonly words: string;
}
export interface Station {
  readonly name: string;
  readonly link: readonly unknown[];
  readonly here: boolean;
  readonly waiting?: Waiting | undefined;
}

/** Stations on one line, in the order the work is done, each with what waits there. */
@Component({
  selector: 'il-station-line',
  imports: [RouterLink],
  template: `
    <nav [attr.aria-label]="label()">
      @for (station of stations(); track station.name) {
        <a [routerLink]="station.link" [class.here]="station.here" [attr.aria-current]="station.here ? 'page' : null">
          <span class="node">
            @if (station.waiting; as wait) {
              <span class="count" [class]="wait.tone" [attr.aria-label]="wait.words">{{ wait.count }}</span>
            }
          </span>
          {{ station.name }}
        </a>
      }
    </nav>
  `,
  styles: `
    :host {
      display: block;
      border-bottom: 1px solid var(--rule);
      flex: none;
      overflow-x: auto;
      scrollbar-width: none;
    }
    nav {
      display: flex;
      height: 50px;
      min-width: 100%;
      width: max-content;
      padding: 0 8px;
    }
    a {
      flex: 1;
      min-width: 96px;
      position: relative;
      display: flex;
      flex-direction: column;
      align-items: center;
      justify-content: flex-end;
      padding-bottom: 5px;
      text-decoration: none;
      color: var(--soft);
      font:
        500 13px/18px 'Barlow Semi Condensed',
        Barlow;
    }
    a::before {
      content: '';
      position: absolute;
      top: 16px;
      left: 0;
      right: 0;
      border-top: 1px solid var(--strong);
    }
    a:first-child::before {
      left: 50%;
    }
    a:last-child::before {
      right: 50%;
    }
    .node {
      position: absolute;
      top: 12px;
      width: 9px;
      height: 9px;
      background: var(--ground);
      border: 1px solid var(--strong);
    }
    .here {
      color: var(--ink);
      font-weight: 600;
    }
    .here .node {
      top: 10px;
      width: 13px;
      height: 13px;
      background: var(--iron);
      border-color: var(--iron);
    }
    a:hover {
      color: var(--ink);
    }
    .count {
      position: absolute;
      left: 12px;
      top: -9px;
      min-width: 14px;
      padding: 0 3px;
      text-align: center;
      background: var(--sheet);
      border: 1px solid currentColor;
      font:
        600 11px/13px 'JetBrains Mono',
        monospace;
    }
  `,
})
export class StationLine {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  readonly label = input.required<string>();
  readonly stations = input.required<readonly Station[]>();

  constructor() {
    // On a narrow screen the line scrolls; the present station stays in the middle.
    afterRenderEffect(() => {
      this.stations();
      const box = this.host.nativeElement;
      const link = box.querySelector<HTMLElement>('.here');
      if (link) box.scrollLeft = link.offsetLeft - (box.clientWidth - link.offsetWidth) / 2;
    });
  }
}
