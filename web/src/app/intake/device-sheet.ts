import { Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { Sheet } from '../ui/sheet';
import { StateMark } from '../ui/state-mark';
import { IntakeApi } from './intake-api';

/** One device of ours: who it is, what it runs, and what it can be asked. */
@Component({
  selector: 'il-device-sheet',
  imports: [MatButtonModule, Sheet, StateMark],
  template: `
    <il-sheet [heading]="device().name ?? device().serial" [note]="device().title" (closed)="closed.emit()">
      <il-state-mark lead [state]="device().state" />
      <ng-container ngProjectAs="[actions]">
        @if (session.mayChange() && device().state !== 'silent') {
          @if (device().state === 'stuck') {
            <button mat-stroked-button (click)="retry()">Tell it again</button>
          }
          <button mat-stroked-button (click)="ask('locate')">Blink its light</button>
          <button mat-stroked-button [disabled]="!gateway()" (click)="ask('ping')">Ping gateway</button>
        }
      </ng-container>
      <div class="cells">
        @if (device().trouble; as trouble) {
          <div class="cell full">
            <span class="label">Trouble</span>
            <div class="value bad">{{ trouble }}</div>
          </div>
        }
        @if (answer()) {
          <div class="cell full" role="status">
            <span class="label">Answer</span>
            <div class="value">{{ answer() }}</div>
          </div>
        }
        <div class="cell">
          <span class="label">State</span>
          <div class="value">{{ device().state }}</div>
        </div>
        <div class="cell">
          <span class="label">{{ device().kind === 'gateway' ? 'Address' : 'Address, by DHCP' }}</span>
          <div class="value mono">{{ device().address ?? 'not reported yet' }}</div>
        </div>
        <div class="cell">
          <span class="label">Hangs on</span>
          <div class="value mono">{{ device().hangsOn ?? 'not reported yet' }}</div>
        </div>
        <div class="cell">
          <span class="label">Up for</span>
          <div class="value">{{ uptime() }}</div>
        </div>
        <div class="cell">
          <span class="label">Serial number</span>
          <div class="value mono">{{ device().serial }}</div>
        </div>
        <div class="cell">
          <span class="label">MAC address</span>
          <div class="value mono">{{ device().mac }}</div>
        </div>
        <div class="cell">
          <span class="label">Key on its label</span>
          <div class="value mono">{{ device().fingerprint }}</div>
        </div>
        <div class="cell">
          <span class="label">Firmware</span>
          <div class="value mono">{{ device().firmware }}</div>
        </div>
        <div class="cell wide">
          <span class="label">Runs document</span>
          <div class="value mono">{{ device().runs?.slice(0, 16) ?? 'none, factory state' }}</div>
        </div>
        <div class="cell wide">
          <span class="label">Should run</span>
          <div class="value mono">{{ device().wants?.slice(0, 16) ?? 'nothing yet' }}</div>
        </div>
        @if (device().kind === 'ap') {
          <div class="cell full">
            <span class="label">Clients</span>
            @for (client of device().clients; track client.mac) {
              <div class="value mono">
                {{ client.mac }} · {{ client.ssid }} · VLAN {{ client.vlan }} · {{ client.address ?? 'no address' }}
              </div>
            } @empty {
              <div class="value soft">None at the moment.</div>
            }
          </div>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class DeviceSheet {
  private readonly api = inject(IntakeApi);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly device = input.required<DeviceView>();
  readonly closed = output<void>();

  private readonly id = computed(() => this.device().id);
  protected readonly answer = linkedSignal<string, string>({ source: this.id, computation: () => '' });
  protected readonly gateway = computed(() => {
    const site = this.store.site();
    return site?.segments.find((segment) => segment.id === site.managementId)?.gateway;
  });
  protected readonly uptime = computed(() => {
    const seconds = this.device().uptime;
    if (seconds === null) return 'not reported yet';
    if (seconds < 3600) return `${Math.floor(seconds / 60)} min`;
    return seconds < 172_800 ? `${Math.floor(seconds / 3600)} h` : `${Math.floor(seconds / 86_400)} days`;
  });

  protected async ask(name: 'locate' | 'ping'): Promise<void> {
    this.answer.set('Asking…');
    try {
      this.answer.set((await this.api.command(this.id(), name, name === 'ping' ? this.gateway()! : '')).text);
    } catch (error) {
      this.answer.set(error instanceof Error ? error.message : String(error));
    }
  }

  protected async retry(): Promise<void> {
    await this.store.attempt(async () => {
      await this.api.retry(this.id());
    });
  }
}
