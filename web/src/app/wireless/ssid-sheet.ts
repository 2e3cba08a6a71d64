import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatSelectModule } from '@angular/material/select';
import type { SsidSecurity } from '@iron-lattice/core/document';
import type { Band } from '@iron-lattice/core/hardware';
import type { Isolation, Operation, Ssid, SsidFields } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Sheet } from '../ui/sheet';
import { SECURITY_WORDS } from './security-words';

interface SsidText {
  readonly name: string;
  readonly security: SsidSecurity;
  /** Empty keeps the passphrase there is. */
  readonly passphrase: string;
  readonly bands: readonly Band[];
  readonly segment: string;
  /** What its clients are kept from; null: nothing. */
  readonly isolation: Isolation | null;
  /** Whether clients of a class join its segment. */
  readonly byClass: boolean | null;
}

/** An SSID's sheet, new or there already. */
@Component({
  selector: 'il-ssid-sheet',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    MatFormFieldModule,
    MatInputModule,
    MatSelectModule,
    Sheet,
  ],
  template: `
    <il-sheet
      [focusFirst]="ssid() === null"
      [heading]="ssid()?.name ?? 'New SSID'"
      [note]="note()"
      (closed)="closed.emit()"
    >
      @if (ssid() && session.mayChange()) {
        <button actions mat-stroked-button (click)="remove()">Remove SSID</button>
      }
      @if (session.mayChange()) {
        <button actions mat-flat-button type="submit" form="ssid-fields" [disabled]="form.busy() || !form.differs()">
          {{ ssid() ? 'Put into the draft' : 'Add SSID' }}
        </button>
      }
      <form id="ssid-fields" (ngSubmit)="keep()">
        <div class="cells">
          <div class="cell">
            <label for="ssid-name">Name on the air</label>
            <mat-form-field>
              <input
                matInput
                id="ssid-name"
                name="name"
                autocomplete="off"
                [readonly]="!session.mayChange()"
                [ngModel]="text().name"
                (ngModelChange)="set({ name: $event })"
              />
            </mat-form-field>
            <p class="hint">Up to 32 bytes</p>
            <p class="flaw" role="alert">{{ problem()?.of('name') }}</p>
          </div>
          <div class="cell">
            <label for="ssid-security">Security</label>
            <mat-form-field>
              <mat-select
                id="ssid-security"
                name="security"
                aria-label="Security"
                [disabled]="!session.mayChange()"
                [ngModel]="text().security"
                (ngModelChange)="set({ security: $event })"
              >
                @for (each of securities; track each[0]) {
                  <mat-option [value]="each[0]">{{ each[1] }}</mat-option>
                }
              </mat-select>
            </mat-form-field>
          </div>
          <div class="cell">
            <label for="ssid-passphrase">Passphrase</label>
            <mat-form-field class="mono-field">
              <input
                matInput
                id="ssid-passphrase"
                name="passphrase"
                autocomplete="new-password"
                [type]="shown() ? 'text' : 'password'"
                [readonly]="!session.mayChange()"
                [placeholder]="ssid() ? 'kept; type to change' : ''"
                [ngModel]="text().passphrase"
                (ngModelChange)="set({ passphrase: $event })"
              />
            </mat-form-field>
            @if (session.mayChange()) {
              <button type="button" class="link" (click)="reveal()">{{ shown() ? 'Hide' : 'Show' }}</button>
            }
            <span class="hint">8 to 63 characters</span>
            <p class="flaw" role="alert">{{ problem()?.of('passphrase') }}</p>
          </div>
          <div class="cell">
            <label for="ssid-segment">Segment its clients join</label>
            <mat-form-field>
              <mat-select
                id="ssid-segment"
                name="segment"
                aria-label="Segment"
                [disabled]="!session.mayChange()"
                [ngModel]="text().segment"
                (ngModelChange)="set({ segment: $event })"
              >
                @for (segment of store.site()?.segments ?? []; track segment.id) {
                  <mat-option [value]="segment.name">{{ segment.name }} · VLAN {{ segment.vlan }}</mat-option>
                }
                @for (pool of store.site()?.pools ?? []; track pool.id) {
                  <mat-option [value]="pool.name">{{ pool.name }}, pool of {{ pool.vlans }}</mat-option>
                }
              </mat-select>
            </mat-form-field>
            <p class="hint">Each site looks it up by name</p>
            <mat-checkbox
              [disabled]="!session.mayChange()"
              [checked]="text().byClass ?? false"
              (change)="set({ byClass: $event.checked || null })"
              >but clients of an access class join its segment</mat-checkbox
            >
            <p class="flaw" role="alert">{{ problem()?.of('segment') }}</p>
          </div>
          <div class="cell wide" role="group" aria-label="Bands">
            <span class="label">Bands</span>
            @for (band of bands; track band) {
              <mat-checkbox
                [disabled]="!session.mayChange()"
                [checked]="text().bands.includes(band)"
                (change)="toggle(band)"
                >{{ band }} GHz</mat-checkbox
              >
            }
            <p class="hint">6 GHz takes WPA3 only.</p>
            <p class="flaw" role="alert">{{ problem()?.of('bands') }}</p>
          </div>
          <div class="cell wide" role="group" aria-label="Clients are kept from">
            <span class="label">Clients are kept from</span>
            @for (each of apart; track each.key) {
              <mat-checkbox
                [disabled]="!session.mayChange()"
                [checked]="text().isolation?.[each.key] ?? false"
                (change)="keepFrom(each.key, $event.checked)"
                >{{ each.label }}</mat-checkbox
              >
            }
            <p class="hint">
              Whatever their segment is. The rules it results in, and where they take effect, are shown under Rules.
            </p>
          </div>
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .link {
      all: unset;
      cursor: pointer;
      text-decoration: underline;
      margin-right: 8px;
      font-size: 12px;
    }
    .link:focus-visible {
      outline: 2px solid var(--iron);
    }
    mat-checkbox {
      margin-right: 10px;
    }
  `,
})
export class SsidSheet {
  private readonly http = inject(HttpClient);
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly ssid = input.required<Ssid | null>();
  readonly closed = output<void>();
  /** Id of the SSID that is in the draft now. */
  readonly kept = output<string>();

  protected readonly apart = [
    { key: 'segments', label: 'other segments' },
    { key: 'clients', label: 'each other' },
    { key: 'gateway', label: 'the gateway, but for addresses and names' },
  ] as const;
  protected readonly bands: readonly Band[] = ['2.4', '5', '6'];
  protected readonly securities = Object.entries(SECURITY_WORDS) as [SsidSecurity, string][];
  protected readonly form = new EditForm<Ssid, SsidText>({
    kept: () => this.ssid(),
    idOf: ({ id }) => id,
    textOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  private readonly id = computed(() => this.ssid()?.id ?? null);
  protected readonly shown = linkedSignal<string | null, boolean>({ source: this.id, computation: () => false });
  protected readonly note = computed(() => {
    const reach = this.ssid()?.reach;
    if (!reach) return `Sent by the access points of ${this.store.site()?.name}.`;
    if (reach.kind === 'estate') return 'An edit applies to the whole estate.';
    return reach.siteIds.length === 1
      ? 'Only at this site.'
      : `An edit applies to all ${reach.siteIds.length} sites it reaches.`;
  });

  protected readonly other = computed(() => this.form.other(['name', 'passphrase', 'segment', 'bands']));

  protected set(change: Partial<SsidText>): void {
    this.form.put(change);
  }

  protected toggle(band: Band): void {
    const { bands } = this.text();
    this.set({ bands: this.bands.filter((each) => (each === band) !== bands.includes(each)) });
  }

  protected keepFrom(key: keyof Isolation, kept: boolean): void {
    const next = { ...this.text().isolation, [key]: kept };
    this.set({ isolation: Object.values(next).includes(true) ? next : null });
  }

  /** Shows the passphrase that is kept; noted in the journal. */
  protected async reveal(): Promise<void> {
    const ssid = this.ssid();
    if (!this.shown() && ssid && this.text().passphrase === '') {
      await this.store.attempt(async () => {
        const url = `/api/secrets/${ssid.passphrase.secret}/reveal`;
        this.set({ passphrase: (await firstValueFrom(this.http.post<{ value: string }>(url, {}))).value });
      });
    }
    this.shown.update((shown) => !shown);
  }

  protected async keep(): Promise<void> {
    await this.form.send(async () => {
      const ssid = this.ssid();
      const { operation, secrets, id } = ssid ? this.change(ssid) : this.addition();
      await this.store.edit([operation], secrets);
      this.kept.emit(id);
    });
  }

  protected async remove(): Promise<void> {
    if (await this.store.tryEdit([{ type: 'ssid.remove', ssidId: this.ssid()!.id }])) this.closed.emit();
  }

  private addition(): { operation: Operation; secrets: Record<string, string>; id: string } {
    const { name, security, passphrase, bands, segment, isolation, byClass } = this.text();
    const [id, secret] = [crypto.randomUUID(), crypto.randomUUID()];
    const reach = { kind: 'sites' as const, siteIds: [this.store.siteId()!] };
    const fields = { id, name, security, passphrase: { secret }, bands, segment, reach };
    const ssid: Ssid = { ...fields, ...(isolation ? { isolation } : {}), ...(byClass ? { byClass } : {}) };
    return { operation: { type: 'ssid.add', ssid }, secrets: { [secret]: passphrase }, id };
  }

  private change(ssid: Ssid): { operation: Operation; secrets: Record<string, string>; id: string } {
    const { passphrase, ...fields } = this.text();
    const { from, to } = this.form.change<Partial<SsidFields>>(fields, (each) => each);
    const secrets: Record<string, string> = {};
    if (passphrase !== '') {
      const secret = crypto.randomUUID();
      secrets[secret] = passphrase;
      Object.assign(to, { passphrase: { secret }, security: fields.security });
      Object.assign(from, { passphrase: ssid.passphrase, security: ssid.security });
    }
    return { operation: { type: 'ssid.set', ssidId: ssid.id, from, to }, secrets, id: ssid.id };
  }
}

function textOf(ssid: Ssid | null): SsidText {
  if (!ssid)
    return {
      name: '',
      security: 'wpa2-wpa3-psk',
      passphrase: '',
      bands: ['2.4', '5'],
      segment: '',
      isolation: null,
      byClass: null,
    };
  const { name, security, bands, segment, isolation = null, byClass = null } = ssid;
  return { name, security, passphrase: '', bands, segment, isolation, byClass };
}
