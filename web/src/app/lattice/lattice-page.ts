import { Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { GridRow } from '@iron-lattice/core/lattice';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { Stage } from '../ui/stage';
import { Legend } from './legend';
import { NewSegmentSheet } from './new-segment-sheet';
import { PortSheet } from './port-sheet';
import { SegmentSheet } from './segment-sheet';
import { Weave } from './weave';

/** What is chosen in the grid: a segment, or where it meets a port. */
interface Choice {
  readonly segmentId: string;
  readonly columnKey: string | null;
}

/** The grid of a site: segments across, what a packet meets on its way down. */
@Component({
  selector: 'il-lattice-page',
  imports: [MatButtonModule, Stage, Weave, Legend, SegmentSheet, PortSheet, NewSegmentSheet],
  template: `
    <il-stage heading="Lattice" [note]="note()">
      <div actions class="choices" role="group" aria-label="Show segments">
        <button type="button" [attr.aria-pressed]="!onlyBroken()" (click)="onlyBroken.set(false)">All</button>
        <button type="button" [attr.aria-pressed]="onlyBroken()" (click)="onlyBroken.set(true)">
          Broken <b class="bad">{{ broken().length }}</b>
        </button>
      </div>
      @if (session.mayChange()) {
        <button actions mat-stroked-button (click)="adding.set(true); choice.set(null)">Add segment</button>
      }
      @if (grid(); as grid) {
        <il-weave
          [columns]="grid.columns"
          [rows]="rows()"
          [marks]="store.marks()"
          [chosenSegment]="choice()?.segmentId ?? null"
          [chosenColumn]="choice()?.columnKey ?? null"
          (choose)="choose($event.segmentId, $event.columnKey)"
        />
        @if (rows().length === 0) {
          <p class="calm"><span class="good">✓</span> No strand is broken.</p>
        }
        @if (grid.rows.length === 1 && session.mayChange() && !adding()) {
          <p class="calm soft">
            So far only the segment that devices live in. Add one for your people: a name and a VLAN ID are enough.
          </p>
        }
        <il-legend />
      } @else {
        <p class="calm soft" role="status">Computing…</p>
      }
      <ng-container ngProjectAs="[foot]">
        @if (adding()) {
          <il-new-segment-sheet (closed)="adding.set(false)" (added)="added($event)" />
        } @else if (segment(); as segment) {
          @if (column(); as column) {
            <il-port-sheet [segment]="segment" [column]="column" (closed)="choice.set(null)" />
          } @else {
            <il-segment-sheet [segment]="segment" (closed)="choice.set(null)" />
          }
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .calm {
      padding: 10px 14px;
    }
    il-segment-sheet,
    il-port-sheet,
    il-new-segment-sheet {
      display: contents;
    }
  `,
})
export class LatticePage {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** A segment's id or a `port:` column to show, from search or a finding. */
  readonly show = input<string>();
  readonly add = input<string>();

  protected readonly onlyBroken = signal(false);
  protected readonly adding = linkedSignal(() => this.add() !== undefined);
  protected readonly grid = computed(() => this.store.consequences()?.grid ?? null);
  protected readonly broken = computed(() => (this.grid()?.rows ?? []).filter(isBroken));
  protected readonly rows = computed(() => (this.onlyBroken() ? this.broken() : (this.grid()?.rows ?? [])));
  /** Follows what was asked to be shown, once the grid is there to find it in. */
  protected readonly choice = linkedSignal<{ show: string | undefined; ready: boolean }, Choice | null>({
    source: () => ({ show: this.show(), ready: this.grid() !== null }),
    computation: ({ show, ready }, previous) => {
      if (previous && previous.source.show === show && previous.source.ready) return previous.value;
      if (!show || !ready) return null;
      if (!show.startsWith('port:')) return { segmentId: show, columnKey: null };
      const row = this.grid()!.rows.find((each) => each.cells[show] === 'missing');
      return row ? { segmentId: row.segment.id, columnKey: show } : null;
    },
  });
  protected readonly segment = computed(() =>
    this.store.site()?.segments.find((each) => each.id === this.choice()?.segmentId),
  );
  protected readonly column = computed(() => {
    const key = this.choice()?.columnKey;
    return key?.startsWith('port:') ? this.grid()?.columns.find((each) => each.key === key) : undefined;
  });
  protected readonly note = computed(() => {
    const [segments, devices] = [this.store.site()?.segments.length ?? 0, this.store.devices().length];
    return `${segments} ${segments === 1 ? 'segment' : 'segments'} across ${devices} ${devices === 1 ? 'device' : 'devices'}`;
  });

  protected choose(segmentId: string, columnKey: string | null): void {
    this.adding.set(false);
    this.choice.set({ segmentId, columnKey });
  }

  protected added(segmentId: string): void {
    this.adding.set(false);
    this.choice.set({ segmentId, columnKey: null });
  }
}

const isBroken = (row: GridRow): boolean => Object.values(row.cells).includes('missing');
