import { Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { OwnCertificateView } from '@iron-lattice/core/entry';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { saveFile } from '../../ui/export-rows';
import { CertificateList } from './certificate-list';
import { CertificateStore } from './certificate-store';
import { ProfileSave } from './profile-save';

/** What clients need to believe this controller, and nobody else; and what its authority makes besides. */
@Component({
  selector: 'il-own-certificate',
  imports: [MatButtonModule, Cell, CertificateList, ProfileSave],
  template: `
    @if (certificates.own(); as shown) {
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
          <a mat-button href="/api/revocations" download="revocations.crl">Save what was taken back</a>
          <span class="soft"
            >for other servers that believe it (CRL), at <span class="mono">{{ list }}</span></span
          >
        </p>
        <il-profile-save />
      </il-cell>
      <il-certificate-list />
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
  providers: [CertificateStore],
})
export class OwnCertificate {
  private readonly store = inject(SiteStore);
  protected readonly certificates = inject(CertificateStore);
  protected readonly list = `${location.origin}/api/revocations`;

  protected async copy(text: string): Promise<void> {
    await this.store.attempt(async () => {
      await navigator.clipboard.writeText(text);
      this.store.say(`${text} is on the clipboard.`);
    });
  }

  protected save({ authority }: OwnCertificateView): void {
    saveFile('authority.pem', new Blob([authority], { type: 'application/x-pem-file' }));
  }
}
