import { Component, Injector, afterNextRender, computed, effect, inject, input, output, resource } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RulesApi, type On } from './rules-api';
import { TrafficTable } from './traffic-table';

/** Exactly what gets from one place to another, and the rules that decide it. */
@Component({
  selector: 'il-reach-cell-detail',
  imports: [MatButtonModule, TrafficTable],
  template: `
    <section [attr.aria-label]="heading()" aria-live="polite">
      <header>
        <h2>{{ heading() }}</h2>
        <span class="soft">{{ on() === 'draft' ? 'on the draft' : 'on live' }}</span>
        <span class="grow"></span>
        <button mat-button (click)="closed.emit()">Close</button>
      </header>
      @if (cell.hasValue()) {
        <il-traffic-table [cell]="cell.value()" />
      } @else if (cell.error()) {
        <p class="bad" role="alert">{{ problem() }}</p>
      } @else {
        <p class="soft">Computing…</p>
      }
    </section>
  `,
  styles: `
    /* In sight however long the matrix is; that scrolls behind it. */
    :host {
      display: block;
      position: sticky;
      bottom: 0;
      z-index: 2;
      max-height: 50vh;
      overflow: auto;
    }
    section {
      border-top: 2px solid var(--ink);
      background: var(--sheet);
      padding: 0 14px 10px;
    }
    header {
      display: flex;
      align-items: center;
      gap: 10px;
    }
  `,
})
export class ReachCellDetail {
  private readonly api = inject(RulesApi);
  readonly from = input.required<string>();
  readonly to = input.required<string>();
  readonly heading = input.required<string>();
  readonly on = input.required<On>();
  readonly minute = input<number | null>(null);
  /** What is meant by live, if not what is live now. */
  readonly then = input<string | undefined>();
  /** The other site that is reached; null: none. */
  readonly toSite = input<string | null>(null);
  /** What the answer depends on besides: it is asked again when that changes. */
  readonly basis = input<number>(0);
  readonly closed = output<void>();
  protected readonly cell = resource({
    params: () => ({
      from: this.from(),
      to: this.to(),
      on: this.on(),
      minute: this.minute(),
      then: this.then(),
      toSite: this.toSite(),
      basis: this.basis(),
    }),
    loader: ({ params: { basis: _basis, ...asked } }) => this.api.cell(asked),
  });
  /** What it says is on the screen. */
  readonly drawn = output<void>();
  private readonly injector = inject(Injector);

  constructor() {
    effect(() => {
      if (this.cell.hasValue()) afterNextRender(() => this.drawn.emit(), { injector: this.injector });
    });
  }

  protected readonly problem = computed(() => this.cell.error()?.message ?? '');
}
