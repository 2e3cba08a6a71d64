import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import { DifferenceLines } from '../ui/difference-lines';
import { IntakeApi } from './intake-api';

/** What somebody changed at a device past this controller: shown, and put right or taken over into the draft. */
@Component({
  selector: 'il-device-drift',
  imports: [MatButtonModule, DifferenceLines],
  template: `
    @if (drift(); as found) {
      <section aria-label="Changed by hand">
        @if (found.difference; as difference) {
          <p>
            <b>Somebody changed this device itself.</b> What it runs differs from what it was told by
            {{ counted(difference.lines.length, 'line') }}:
          </p>
          <il-difference-lines [lines]="difference.lines" />
          @if (found.left.length > 0) {
            <p class="soft">
              {{ counted(found.left.length, 'line') }} of these no edit leads to; they go when it is put right:
              {{ left() }}
            </p>
          }
        } @else {
          <p>
            <b>It runs something nobody here sent.</b>
            {{ found.at === null ? 'It has not told yet what that is.' : 'What it told back cannot be read.' }}
          </p>
        }
        @if (session.mayChange()) {
          <div class="do">
            @if (found.operations.length > 0) {
              <button mat-flat-button [disabled]="busy()" (click)="take()">
                Take it over: {{ counted(found.operations.length, 'edit') }} of the draft
              </button>
            }
            <button mat-stroked-button [disabled]="busy()" (click)="putRight()">Put it right</button>
            @if (taken()) {
              <span role="status">In the draft now. It is told when that is rolled out.</span>
            }
          </div>
        }
      </section>
    }
  `,
  styles: `
    section {
      padding: 8px 14px;
      border-bottom: 1px solid var(--rule);
    }
    .do {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 10px;
      margin-top: 8px;
    }
  `,
})
export class DeviceDrift {
  private readonly api = inject(IntakeApi);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly device = input.required<DeviceView>();
  readonly changed = output<void>();
  protected readonly counted = counted;
  protected readonly busy = signal(false);
  protected readonly taken = signal(false);
  private readonly asked = resource({
    // Its edits are of the draft as it is now; what it runs may be told a moment later.
    params: () => ({ id: this.device().id, of: [this.device().runs, this.device().wants, this.device().heardAt] }),
    loader: ({ params }) => this.api.drift(params.id),
  });
  protected readonly drift = computed(() => (this.asked.hasValue() ? this.asked.value().drift : null));
  protected readonly left = computed(() => (this.drift()?.left ?? []).map(({ path }) => path.join(' ')).join(', '));

  protected async take(): Promise<void> {
    this.busy.set(true);
    this.taken.set(await this.store.tryEdit(this.drift()!.operations));
    this.busy.set(false);
    this.asked.reload();
  }

  protected async putRight(): Promise<void> {
    this.busy.set(true);
    await this.store.attempt(() => this.api.retry(this.device().id));
    this.busy.set(false);
    this.changed.emit();
  }
}
