import { HttpClient } from '@angular/common/http';
import { Component, inject, resource } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { OwnCertificateView } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { saveFile } from '../ui/export-rows';

/** What clients need to believe this controller, and nobody else in its name. */
@Component({
  selector: 'il-own-certificate',
  imports: [MatButtonModule, Cell],
  template: `
    @if (shown.value(); as shown) {
      <il-cell
        label="What clients believe it by"
        size="full"
        hint="Who signs in by name and password does so inside TLS (EAP-TTLS with PAP). Give clients the authority and the name: then they say their password to this controller and to nobody else."
      >
        <p class="line">
          It shows a certificate for
          <button mat-button type="button" class="mono" (click)="copy(shown.name)">{{ shown.name }}</button>
          <span class="soft">until {{ shown.until.slice(0, 10) }}; another is made before that.</span>
        </p>
        <p class="line">
          <button mat-button type="button" (click)="save(shown)">Save the authority’s certificate</button>
          <button mat-button type="button" (click)="copy(supplicant(shown), 'A network block')">
            Copy a network block for wpa_supplicant
          </button>
        </p>
      </il-cell>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .line {
      margin: 0;
    }
  `,
})
export class OwnCertificate {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly shown = resource({
    loader: () => firstValueFrom(this.http.get<OwnCertificateView>('/api/entry-certificate')),
  });

  protected async copy(text: string, what = text): Promise<void> {
    await this.store.attempt(async () => {
      await navigator.clipboard.writeText(text);
      this.store.say(`${what} is on the clipboard.`);
    });
  }

  protected save({ authority }: OwnCertificateView): void {
    saveFile('authority.pem', new Blob([authority], { type: 'application/x-pem-file' }));
  }

  protected supplicant = ({ name }: OwnCertificateView): string =>
    [
      'network={',
      '  ssid="…"',
      '  key_mgmt=WPA-EAP',
      '  eap=TTLS',
      '  phase2="auth=PAP"',
      '  anonymous_identity="anonymous"',
      '  identity="…"',
      '  ca_cert="authority.pem"',
      `  domain_match="${name}"`,
      '}',
      '',
    ].join('\n');
}
