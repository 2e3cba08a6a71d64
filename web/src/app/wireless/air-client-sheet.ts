import { HttpClient } from '@angular/common/http';
import { Component, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { METHOD_WORDS } from '@iron-lattice/core/radius';
import type { AirClientView } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { Sheet } from '../ui/sheet';

/** A client on the air: how it is joined, where it was, and a way to send it away. */
@Component({
  selector: 'il-air-client-sheet',
  imports: [MatButtonModule, Cell, Sheet],
  template: `
    <il-sheet
      [heading]="client().name ?? client().mac"
      [note]="client().ssid + ' at ' + client().deviceName"
      (closed)="closed.emit()"
    >
      @if (session.mayChange()) {
        <button actions mat-stroked-button type="button" [disabled]="busy()" (click)="disconnect()">
          Disconnect it
        </button>
      }
      <div class="cells">
        <il-cell label="MAC address">
          <div class="value mono">{{ client().mac }}</div>
        </il-cell>
        <il-cell label="Address">
          <div class="value mono">{{ client().address ?? 'none yet' }}</div>
        </il-cell>
        <il-cell label="Band and signal" hint="As the AP hears it">
          <div class="value">{{ client().band ?? '?' }} GHz, {{ client().signal ?? '?' }} dBm</div>
        </il-cell>
        <il-cell label="Sent to it" hint="Streams, width, and the rate on the air">
          <div class="value">
            {{ client().streams ?? '?' }} × {{ client().width ?? '?' }} MHz, {{ client().rate ?? '?' }} Mb/s
          </div>
        </il-cell>
        @if (client().entered; as entered) {
          <il-cell label="Who it is" [hint]="'By ' + METHOD_WORDS[entered.method]">
            <div class="value">{{ entered.user }}</div>
          </il-cell>
          <il-cell label="Known by" [hint]="client().named ? '' : 'It named no class'">
            <div class="value">{{ entered.server }}</div>
          </il-cell>
        }
        @if (client().keyedBy; as server) {
          <il-cell label="Its key is known by">
            <div class="value">{{ server }}</div>
          </il-cell>
        }
        <il-cell label="Where it was" size="full">
          @for (visit of client().visits; track visit.at) {
            <div class="value">
              <span class="mono">{{ visit.deviceName }}</span> {{ visit.band ? visit.band + ' GHz' : '' }}
              <span class="soft">since {{ when(visit.at) }}</span>
            </div>
          } @empty {
            <div class="value soft">Not written down yet.</div>
          }
        </il-cell>
        @if (problem(); as problem) {
          <p class="cell full flaw" role="alert">{{ problem.message }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class AirClientSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly client = input.required<AirClientView>();
  readonly closed = output<void>();
  protected readonly METHOD_WORDS = METHOD_WORDS;
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);

  protected when = (at: string): string =>
    new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

  protected async disconnect(): Promise<void> {
    const { deviceId, mac, name } = this.client();
    const url = `/api/devices/${deviceId}/disconnects`;
    const done = await attempt(this.busy, this.problem, async () => {
      const { ok, text } = await firstValueFrom(this.http.post<{ ok: boolean; text: string }>(url, { mac }));
      if (!ok) throw new Error(text);
    });
    if (done) this.store.say(`${name ?? mac} was sent away. It may come back by itself.`);
  }
}
