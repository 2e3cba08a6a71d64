import { Component, ElementRef, afterNextRender, HostListener, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';

const HEIGHT_KEY = 'lattice.sheet-height';
const [LEAST, STEP] = [120, 24];

/**
 * The sheet across the foot of the work area, like a drawing's title block. Its upper edge is dragged, or moved
 * with the arrow keys; Escape closes it. A full page on a phone.
 */
@Component({
  selector: 'il-sheet',
  imports: [MatButtonModule],
  template: `
    <div
      class="edge"
      role="separator"
      aria-orientation="horizontal"
      aria-label="Height of the sheet"
      tabindex="0"
      [attr.aria-valuenow]="height() ?? least"
      [attr.aria-valuemin]="least"
      [attr.aria-valuemax]="most()"
      (pointerdown)="grab($event)"
      (pointermove)="drag($event)"
      (keydown.arrowUp)="move($event, 1)"
      (keydown.arrowDown)="move($event, -1)"
    ></div>
    <header>
      <ng-content select="[lead]" />
      <h2 class="mono">{{ heading() }}</h2>
      <span class="soft note">{{ note() }}</span>
      <span class="grow"></span>
      <span class="actions"><ng-content select="[actions]" /></span>
      <span class="soft keys">Esc closes</span>
      <button mat-button type="button" (click)="closed.emit()" aria-label="Close the sheet">Close</button>
    </header>
    <div class="body"><ng-content /></div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      background: var(--sheet);
      border-top: 2px solid var(--ink);
      position: relative;
      flex: none;
      max-height: 46%;
    }
    .edge {
      position: absolute;
      top: -5px;
      left: 0;
      right: 0;
      height: 8px;
      cursor: ns-resize;
      touch-action: none;
    }
    header {
      display: flex;
      align-items: center;
      gap: 10px;
      padding: 3px 6px 3px 14px;
      border-bottom: 1px solid var(--rule);
      min-height: 32px;
      white-space: nowrap;
    }
    h2 {
      font:
        600 13px/18px 'JetBrains Mono',
        monospace;
      white-space: nowrap;
    }
    .actions {
      display: flex;
      gap: 10px;
    }
    .note {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .keys {
      white-space: nowrap;
      font-size: 12px;
    }
    .body {
      overflow: auto;
      flex: 1;
    }
    @media (max-width: 720px) {
      :host {
        position: fixed;
        inset: 0;
        z-index: 30;
        height: auto !important;
        max-height: none;
        border-top-width: 3px;
      }
      .edge,
      .keys,
      .note {
        display: none;
      }
      header {
        min-height: 46px;
        flex-wrap: wrap;
      }
      .actions {
        order: 1;
        width: 100%;
        padding: 0 8px 6px 0;
        flex-wrap: wrap;
      }
      .actions:empty {
        display: none;
      }
    }
  `,
  host: {
    '[style.height.px]': 'height()',
    '[style.max-height]': "height() === null ? null : 'none'",
    role: 'region',
    '[attr.aria-label]': 'heading()',
  },
})
export class Sheet {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  readonly heading = input.required<string>();
  readonly note = input('');
  /** Whether the first field is ready to be typed into when the sheet opens. */
  readonly focusFirst = input(false);
  readonly closed = output<void>();
  protected readonly least = LEAST;
  /** As tall as its contents, up to a part of the work area, until somebody drags it. */
  protected readonly height = signal<number | null>(Number(localStorage.getItem(HEIGHT_KEY)) || null);

  constructor() {
    afterNextRender(() => {
      if (this.focusFirst()) this.host.nativeElement.querySelector<HTMLElement>('.body input')?.focus();
    });
  }

  protected most(): number {
    return (this.host.nativeElement.parentElement?.clientHeight ?? 600) - 120;
  }

  protected grab(event: PointerEvent): void {
    (event.target as HTMLElement).setPointerCapture(event.pointerId);
  }

  protected drag(event: PointerEvent): void {
    if (!(event.target as HTMLElement).hasPointerCapture(event.pointerId)) return;
    this.resize(this.host.nativeElement.getBoundingClientRect().bottom - event.clientY);
  }

  protected move(event: Event, steps: number): void {
    event.preventDefault();
    this.resize((this.height() ?? this.host.nativeElement.offsetHeight) + steps * STEP);
  }

  @HostListener('document:keydown.escape', ['$event'])
  protected escape(event: Event): void {
    if (!event.defaultPrevented) this.closed.emit();
  }

  private resize(height: number): void {
    const kept = Math.round(Math.max(LEAST, Math.min(this.most(), height)));
    this.height.set(kept);
    localStorage.setItem(HEIGHT_KEY, String(kept));
  }
}
