import { Component, computed, inject, input, linkedSignal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatSelectModule } from '@angular/material/select';
import { asksWho, type EnterpriseSecurity } from '@iron-lattice/core/document';
import { configurationProfile, supplicantProfile, type MadeCertificate, type Profile } from '@iron-lattice/core/entry';
import { SharedStore } from '../../shell/shared-store';
import { saveFile } from '../../ui/export-rows';
import { CertificateStore } from './certificate-store';

/** Files by which clients join an SSID, believe this controller and nobody else in its name. */
@Component({
  selector: 'il-profile-save',
  imports: [MatButtonModule, MatFormFieldModule, MatSelectModule],
  template: `
    @if (ssids().length > 0) {
      <div class="line">
        <span>A profile for</span>
        <mat-form-field>
          <mat-select
            aria-label="SSID of the profile"
            [value]="ssid()?.name"
            (selectionChange)="name.set($event.value)"
          >
            @for (each of ssids(); track each.name) {
              <mat-option [value]="each.name">{{ each.name }}</mat-option>
            }
          </mat-select>
        </mat-form-field>
        <button mat-button type="button" (click)="save('mobileconfig')">Save for phones and computers</button>
        <button mat-button type="button" (click)="save('conf')">Save for wpa_supplicant</button>
      </div>
      @if (short()) {
        <p class="caution line">
          192-bit mode wants keys of 384 bits, and this authority was made with 256: its clients are let in by another
          server.
        </p>
      }
    } @else {
      <p class="soft line">No SSID asks who somebody is yet; once one does, a profile for it is made here.</p>
    }
  `,
  styles: `
    .line {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 8px;
      margin: 0;
    }
    mat-form-field {
      width: 180px;
    }
  `,
})
export class ProfileSave {
  private readonly shared = inject(SharedStore);
  private readonly store = inject(CertificateStore);
  /** Whom it is for; absent: anybody, who types name and password. */
  readonly user = input<string>();
  readonly made = input<MadeCertificate | null>(null);
  protected readonly ssids = computed(() =>
    (this.shared.estate()?.ssids ?? []).filter(({ security }) => asksWho(security)),
  );
  protected readonly name = linkedSignal(() => this.ssids()[0]?.name);
  protected readonly ssid = computed(() => this.ssids().find(({ name }) => name === this.name()) ?? this.ssids()[0]);
  /** Whether what it is for wants longer keys than there are. */
  protected readonly short = computed(
    () => this.ssid()?.security === 'wpa3-enterprise-192' && this.store.own()?.bits === 256,
  );

  protected save(as: 'mobileconfig' | 'conf'): void {
    const [own, ssid] = [this.store.own(), this.ssid()];
    if (!own || !ssid) return;
    const [user, made] = [this.user(), this.made()];
    const profile: Profile = {
      ...{ ssid: ssid.name, security: ssid.security as EnterpriseSecurity },
      server: { name: own.name, authority: own.authority },
      ...(user === undefined ? {} : { user }),
      ...(made ? { certificate: made } : {}),
    };
    const estate = this.shared.estate()?.name ?? '';
    const text =
      as === 'conf' ? supplicantProfile(profile) : configurationProfile(profile, estate, () => crypto.randomUUID());
    const file = [ssid.name, ...(user === undefined ? [] : [user])].join('-').replace(/[^\p{L}\p{N}.-]+/gu, '-');
    saveFile(`${file}.${as}`, new Blob([text], { type: 'application/octet-stream' }));
  }
}
