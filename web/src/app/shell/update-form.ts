import { HttpClient } from '@angular/common/http';
import { DatePipe } from '@angular/common';
import { Component, computed, inject, input, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import type { UpdateBatchView, UpdateMode, UpdatePlanRow } from '@iron-lattice/core/firmware';
import { firstValueFrom } from 'rxjs';
import { SiteStore } from './site-store';
import { Cell } from '../ui/cell';
import { anewFor } from '../ui/anew-for';

const MODES: readonly { readonly mode: UpdateMode; readonly words: string }[] = [
  { mode: 'now', words: 'Now' },
  { mode: 'window', words: 'In the site’s window' },
  { mode: 'staged', words: 'One first, then the rest' },
];

/** Brings devices to the newest release of their models; what that means is said beforehand. */
@Component({
  selector: 'il-update-form',
  imports: [DatePipe, MatButtonModule, RouterLink, Cell],
  template: `
    <il-cell label="Update firmware" size="full">
      <div class="row">
        <div class="choices" role="group" aria-label="When">
          @for (each of modes; track each.mode) {
            <button type="button" [attr.aria-pressed]="mode() === each.mode" (click)="mode.set(each.mode)">
              {{ each.words }}
            </button>
          }
        </div>
        <button mat-stroked-button [disabled]="busy() || ready().length === 0" (click)="start()">
          Update {{ ready().length }}
        </button>
        @if (started()) {
          <span role="status">Under way. <a routerLink="/firmware">Watch it under Firmware.</a></span>
        }
      </div>
      @if (plan.hasValue()) {
        <p class="hint">
          @for (line of summary(); track line) {
            {{ line }}
          }
        </p>
        @if (mode() === 'window' && ready()[0]; as first) {
          <p class="hint">The window opens {{ first.notBefore | date: 'EEEE d MMM, HH:mm' }}.</p>
        }
        @for (row of refused(); track row.deviceId) {
          <p class="hint">
            <span class="mono">{{ row.name }}</span>: {{ row.refusal }}
          </p>
        }
      }
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    .row {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
      align-items: center;
    }
  `,
})
export class UpdateForm {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  readonly deviceIds = input.required<readonly string[]>();
  protected readonly modes = MODES;
  protected readonly mode = signal<UpdateMode>('now');
  protected readonly busy = signal(false);
  protected readonly started = anewFor(
    () => this.deviceIds().join(),
    () => false,
  );
  private readonly turn = signal(0);

  protected readonly plan = resource({
    params: () => ({ deviceIds: this.deviceIds(), mode: this.mode(), turn: this.turn() }),
    loader: ({ params: { deviceIds, mode } }) =>
      firstValueFrom(this.http.post<UpdatePlanRow[]>('/api/firmware/plan', { deviceIds, mode })),
  });
  private readonly rows = computed(() => (this.plan.hasValue() ? this.plan.value() : []));
  protected readonly ready = computed(() => this.rows().filter((row) => row.refusal === null));
  protected readonly refused = computed(() =>
    this.rows()
      .filter((row) => row.refusal !== null)
      .slice(0, 5),
  );
  protected readonly summary = computed(() => {
    const ways = new Map<string, number>();
    for (const row of this.ready()) {
      const way = `${row.model} ${row.running} → ${row.steps.join(' → ')}`;
      ways.set(way, (ways.get(way) ?? 0) + 1);
    }
    const lines = [...ways].map(([way, count]) => (count === 1 ? `${way}.` : `${count} × ${way}.`));
    const canaries = this.ready().filter((row) => row.canary);
    if (this.mode() === 'staged' && canaries.length > 0)
      lines.push(`${canaries.map((row) => row.name).join(', ')} first.`);
    return lines;
  });

  protected async start(): Promise<void> {
    this.busy.set(true);
    const request = { deviceIds: this.ready().map((row) => row.deviceId), mode: this.mode() };
    const done = await this.site.attempt(async () => {
      await firstValueFrom(this.http.post<UpdateBatchView>('/api/firmware/updates', request));
    });
    this.started.set(done);
    this.turn.update((turn) => turn + 1);
    this.busy.set(false);
  }
}
