import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import type { EntryTest, EntryTestRequest } from '@iron-lattice/core/entry';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { RadiusServer } from '@iron-lattice/core/intent';
import { METHOD_WORDS, METHODS, type Method } from '@iron-lattice/core/radius';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { ExchangeView } from './exchange-view';

/** Has a device of the site ask a server for somebody, and shows what was said and what follows. */
@Component({
  selector: 'il-server-test',
  imports: [FormsModule, MatButtonModule, ChoiceCell, ExchangeView, TextCell],
  template: `
    <form class="cells" aria-label="Try it" (ngSubmit)="test()">
      <il-choice-cell
        label="Asked from"
        for="test-device"
        hint="By its own way there, now"
        [options]="devices()"
        [value]="deviceId()"
        (chosen)="deviceId.set($event)"
      />
      <il-choice-cell
        label="Tried by"
        for="test-method"
        [options]="methods()"
        [value]="method()"
        (chosen)="method.set($event)"
      />
      <il-text-cell
        [label]="method() === 'mac' ? 'MAC address' : 'User name'"
        for="test-user"
        [mono]="true"
        [example]="method() === 'mac' ? '0e:c4:60:00:00:03' : 'marn.ellis'"
        [most]="253"
        [value]="user()"
        (typed)="user.set($event)"
      />
      @if (method() !== 'mac') {
        <il-text-cell
          label="Password"
          for="test-password"
          kind="password"
          autocomplete="off"
          hint="Kept nowhere"
          [most]="128"
          [value]="password()"
          (typed)="password.set($event)"
        />
      }
      <div class="cell go">
        <button mat-flat-button type="submit" [disabled]="busy() || user().trim() === '' || deviceId() === null">
          {{ busy() ? 'Asking…' : 'Try it' }}
        </button>
        @if (differs()) {
          <p class="hint">Asks as it stands in the draft, without what is typed below.</p>
        }
      </div>
      @if (problem(); as problem) {
        <p class="cell full flaw" role="alert">{{ problem.message }}</p>
      }
      @if (result(); as result) {
        <il-exchange-view class="cell full" [test]="result" [server]="server().name" />
      }
    </form>
  `,
  styles: `
    :host {
      display: block;
      border-bottom: 2px solid var(--rule);
    }
    .go {
      padding-top: 25px;
    }
  `,
})
export class ServerTest {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly server = input.required<RadiusServer>();
  /** Whether something is typed that is not in the draft yet. */
  readonly differs = input(false);
  /** Who can ask: those that let clients in, then gateways; silent ones cannot. */
  protected readonly devices = computed((): readonly Choice[] => {
    const rank = { ap: 0, switch: 1, gateway: 2, bridge: 3 } as Readonly<Record<string, number>>;
    return this.store
      .devices()
      .filter(({ state }) => state !== 'silent')
      .map((device) => ({ value: device.id, label: device.name ?? device.serial, kind: sheetFor(device).kind }))
      .sort((a, b) => (rank[a.kind] ?? 9) - (rank[b.kind] ?? 9) || (a.label < b.label ? -1 : 1));
  });
  protected readonly deviceId = linkedSignal<readonly Choice[], string | null>({
    source: this.devices,
    computation: (devices, before) =>
      devices.some(({ value }) => value === before?.value)
        ? before!.value
        : ((devices[0]?.value ?? null) as string | null),
  });
  protected readonly methods = computed((): readonly Choice[] =>
    METHODS.filter((method) => method !== 'mac' || this.server().macs !== null).map((method) => ({
      value: method,
      label: METHOD_WORDS[method],
    })),
  );
  protected readonly method = linkedSignal<Method>(() => (this.server().own ? 'eap-ttls' : 'pap'));
  protected readonly user = signal('');
  protected readonly password = signal('');
  protected readonly busy = signal(false);
  protected readonly problem = anewFor<Problem | null>(
    () => this.server().id,
    () => null,
  );
  /** What came of it, as long as the server is as it was asked. */
  protected readonly result = anewFor<EntryTest | null>(
    () => JSON.stringify(this.server()),
    () => null,
  );

  protected async test(): Promise<void> {
    const [draft, deviceId, method] = [this.store.draft(), this.deviceId(), this.method()];
    if (!draft || deviceId === null || this.busy()) return;
    const password = method === 'mac' ? '' : this.password();
    const request: EntryTestRequest = { deviceId, method, user: this.user().trim(), password };
    this.result.set(null);
    await attempt(this.busy, this.problem, async () => {
      const url = `/api/drafts/${draft.id}/radius/${this.server().id}/test`;
      this.result.set(await firstValueFrom(this.http.post<EntryTest>(url, request)));
    });
  }
}
