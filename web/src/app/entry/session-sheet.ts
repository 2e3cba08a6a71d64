import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SiteClients } from '../shell/site-clients';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { Sheet } from '../ui/sheet';
import { placeOf, sessionsOf } from './session-words';

/** One who is here: who that is and how it is known, what it got, and a way to end it. */
@Component({
  selector: 'il-session-sheet',
  imports: [MatButtonModule, Cell, Sheet],
  template: `
    @if (session(); as of) {
      <il-sheet [heading]="of.who" [note]="placeOf(of.client)" (closed)="closed.emit()">
        @if (people.mayChange()) {
          <button actions mat-stroked-button type="button" [disabled]="busy()" (click)="end()">End it</button>
        }
        <div class="cells">
          <il-cell label="Known by" [hint]="of.server === '' ? '' : 'Said by ' + of.server">
            <div class="value">{{ of.how }}</div>
          </il-cell>
          <il-cell label="Class" [hint]="of.className === '' ? 'None was named' : ''">
            <div class="value">{{ of.className || 'none' }}</div>
          </il-cell>
          <il-cell label="Segment" [hint]="of.client.tagged ? 'Its frames carry the tag' : ''">
            <div class="value">
              {{ segment() }} <span class="mono soft">{{ of.client.vlan }}</span>
            </div>
          </il-cell>
          <il-cell label="Address">
            <div class="value mono">{{ of.client.address ?? 'none yet' }}</div>
          </il-cell>
          <il-cell label="MAC address">
            <div class="value mono">{{ of.client.mac }}</div>
          </il-cell>
          <p class="cell full soft">
            Ending it sends the client away from its SSID, or has its port ask anew who it is: whoever is known may come
            back at once. To keep somebody out, take the user or the class away, or the client off its server.
          </p>
          @if (problem(); as problem) {
            <p class="cell full flaw" role="alert">{{ problem.message }}</p>
          }
        </div>
      </il-sheet>
    }
  `,
  styles: ':host { display: contents; }',
})
export class SessionSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly clients = inject(SiteClients);
  protected readonly people = inject(SessionStore);
  /** MAC address of the client; null: none is open. */
  readonly mac = input.required<string | null>();
  readonly closed = output<void>();
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly placeOf = placeOf;
  protected readonly session = computed(() =>
    sessionsOf(this.clients.clients() ?? [], this.store.accessClasses()).find(
      ({ client }) => client.mac === this.mac(),
    ),
  );
  protected readonly segment = computed(() => {
    const vlan = this.session()?.client.vlan;
    return this.store.site()?.segments.find((each) => each.vlan === vlan)?.name ?? 'VLAN';
  });

  protected async end(): Promise<void> {
    const session = this.session();
    if (!session?.client.at) return;
    const { mac, at } = session.client;
    const done = await attempt(this.busy, this.problem, async () => {
      const url = `/api/devices/${at.deviceId}/disconnects`;
      const { ok, text } = await firstValueFrom(this.http.post<{ ok: boolean; text: string }>(url, { mac }));
      if (!ok) throw new Error(text);
    });
    if (done) this.store.say(`The session of ${session.who} was ended. It may come back by itself.`);
  }
}
