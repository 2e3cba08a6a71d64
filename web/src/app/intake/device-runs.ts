import { Component, computed, inject, input, output, resource } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { DifferenceLines } from '../ui/difference-lines';
import { DeviceDrift } from './device-drift';
import { IntakeApi } from './intake-api';

/** What a device runs against what it should. */
@Component({
  selector: 'il-device-runs',
  imports: [MatButtonModule, Cell, DeviceDrift, DifferenceLines],
  template: `
    <div class="cells">
      <il-cell label="Runs document"
        ><div class="value mono">{{ device().runs?.slice(0, 16) ?? 'none, factory state' }}</div></il-cell
      >
      <il-cell label="Should run"
        ><div class="value mono">{{ device().wants?.slice(0, 16) ?? 'nothing' }}</div></il-cell
      >
      @if (known() && device().runs !== device().wants && device().state !== 'silent' && session.mayChange()) {
        <il-cell label="Behind or stuck?"><button mat-stroked-button (click)="retry()">Tell it again</button></il-cell>
      }
    </div>
    @if (difference.hasValue()) {
      @if (difference.value(); as found) {
        @if (!found.known) {
          <il-device-drift [device]="device()" (changed)="changed.emit()" />
        } @else if (found.difference === null) {
          <p class="soft note">It should run nothing yet.</p>
        } @else if (found.difference.lines.length === 0) {
          <p class="good note">It runs exactly what it should.</p>
        } @else {
          <p class="note">
            To run what it should it gains {{ found.difference.added }}
            {{ found.difference.added === 1 ? 'line' : 'lines' }} and loses {{ found.difference.removed }}:
          </p>
          <il-difference-lines [lines]="found.difference.lines" />
        }
      }
    }
  `,
  styles: '.note { padding: 8px 14px; }',
})
export class DeviceRuns {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly device = input.required<DeviceView>();
  readonly changed = output<void>();
  protected readonly difference = resource({
    params: () => ({ id: this.device().id, runs: this.device().runs, wants: this.device().wants }),
    loader: ({ params }) => this.api.difference(params.id),
  });

  /** Whether what it runs is what somebody here sent. */
  protected readonly known = computed(() => !this.difference.hasValue() || this.difference.value().known);

  protected async retry(): Promise<void> {
    await this.site.attempt(() => this.api.retry(this.device().id));
    this.changed.emit();
  }
}
