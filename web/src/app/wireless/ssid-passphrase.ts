import { HttpClient } from '@angular/common/http';
import { Component, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Ssid } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import type { Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { TextCell } from '../ui/text-cell';
import type { SsidText } from './ssid-text';

/** The passphrase of an SSID in its sheet: typed anew, or shown as it is kept. */
@Component({
  selector: 'il-ssid-passphrase',
  imports: [MatButtonModule, TextCell],
  template: `
    <il-text-cell
      label="Passphrase"
      for="ssid-passphrase"
      [hint]="ssid()?.passphrase ? '8 to 63 characters; empty keeps it' : '8 to 63 characters'"
      autocomplete="new-password"
      [kind]="shown() ? 'text' : 'password'"
      [example]="ssid()?.passphrase ? 'kept' : ''"
      [mono]="true"
      [flaw]="problem()?.of('passphrase')"
      [readonly]="!mayChange()"
      [value]="text().passphrase"
      (typed)="changed.emit({ passphrase: $event })"
    >
      @if (mayChange()) {
        <button beside mat-button type="button" (click)="reveal()">{{ shown() ? 'Hide' : 'Show' }}</button>
      }
    </il-text-cell>
  `,
  styles: ':host { display: contents; }',
})
export class SsidPassphrase {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly ssid = input.required<Ssid | null>();
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<SsidText>>();
  protected readonly shown = anewFor(
    () => this.ssid()?.id,
    () => false,
  );

  /** Shows the passphrase that is kept; noted in the journal. */
  protected async reveal(): Promise<void> {
    const secret = this.ssid()?.passphrase?.secret;
    if (!this.shown() && secret && this.text().passphrase === '') {
      await this.store.attempt(async () => {
        const url = `/api/secrets/${secret}/reveal`;
        this.changed.emit({ passphrase: (await firstValueFrom(this.http.post<{ value: string }>(url, {}))).value });
      });
    }
    this.shown.update((shown) => !shown);
  }
}
