import { Component, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { MadeCertificate } from '@iron-lattice/core/entry';
import { SiteStore } from '../../shell/site-store';
import { saveFile } from '../../ui/export-rows';
import { ProfileSave } from './profile-save';

/** A certificate that was just made, with its key: to be saved now, since nobody keeps that. */
@Component({
  selector: 'il-made-certificate',
  imports: [MatButtonModule, ProfileSave],
  template: `
    <div class="made" role="status">
      <p class="caution">Its key is told this once: save it before you close this. Whoever lost it is made another.</p>
      <p class="line">
        <button mat-stroked-button type="button" (click)="save()">Save certificate and key</button>
        <span>opened by</span>
        <button mat-button type="button" class="mono" (click)="copy()">{{ made().password }}</button>
        <button mat-button type="button" (click)="savePem()">Save as PEM instead</button>
      </p>
      @if (user(); as user) {
        <il-profile-save [user]="user" [made]="made()" />
      }
    </div>
  `,
  styles: `
    .made {
      border-left: 3px solid var(--iron);
      padding: 2px 10px;
    }
    p {
      margin: 0;
    }
    .line {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 8px;
    }
  `,
})
export class MadeCertificateCell {
  private readonly store = inject(SiteStore);
  readonly made = input.required<MadeCertificate>();
  /** Whose it is, of a user’s. */
  readonly user = input<string>();

  protected save(): void {
    const { pkcs12, name } = this.made();
    const octets = Uint8Array.from(atob(pkcs12), (sign) => sign.charCodeAt(0));
    saveFile(`${fileOf(name)}.p12`, new Blob([octets], { type: 'application/x-pkcs12' }));
  }

  protected savePem(): void {
    const { cert, key, authority, name } = this.made();
    saveFile(`${fileOf(name)}.pem`, new Blob([cert, '\n', key, '\n', authority], { type: 'application/x-pem-file' }));
  }

  protected async copy(): Promise<void> {
    await this.store.attempt(async () => {
      await navigator.clipboard.writeText(this.made().password);
      this.store.say('What opens it is on the clipboard.');
    });
  }
}
const fileOf = (name: string): string => name.replace(/[^\p{L}\p{N}.-]+/gu, '-');
