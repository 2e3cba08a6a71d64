import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { SsidSecurity } from '@iron-lattice/core/document';
import { BANDS, type Band } from '@iron-lattice/core/hardware';
import type { Isolation, Operation, SharedReach, Ssid, SsidFields } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { AtSites } from '../shell/at-sites';
import { EditForm } from '../shell/edit-form';
import { ReachCell } from '../shell/reach-cell';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Sheet } from '../ui/sheet';
import { SECURITY_WORDS } from './security-words';
import { Cell } from '../ui/cell';
import { BeaconCell } from './beacon-cell';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';
import { anewFor } from '../ui/anew-for';

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
  readonly reach: SharedReach;
  readonly purpose: string;
}

/** An SSID's sheet, new or there already. */
@Component({
  selector: 'il-ssid-sheet',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    AtSites,
    BeaconCell,
    Cell,
    ChoiceCell,
    ReachCell,
    Sheet,
    TextCell,
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
        <button
          actions
          mat-flat-button
          type="submit"
          form="ssid-fields"
          [disabled]="form.busy() || !form.differs() || nowhere()"
        >
          {{ ssid() ? 'Put into the draft' : 'Add SSID' }}
        </button>
      }
      <form id="ssid-fields" (ngSubmit)="keep()">
        <div class="cells">
          <il-text-cell
            label="Name on the air"
            for="ssid-name"
            hint="Up to 32 bytes"
            [flaw]="problem()?.of('name')"
            [readonly]="!session.mayChange()"
            [value]="text().name"
            (typed)="set({ name: $event })"
          />
          <il-choice-cell
            label="Security"
            for="ssid-security"
            [options]="securities"
            [value]="text().security"
            [disabled]="!session.mayChange()"
            (chosen)="set({ security: $event })"
          />
          <il-text-cell
            label="Passphrase"
            for="ssid-passphrase"
            [hint]="ssid() ? '8 to 63 characters; empty keeps it' : '8 to 63 characters'"
            autocomplete="new-password"
            [kind]="shown() ? 'text' : 'password'"
            [example]="ssid() ? 'kept' : ''"
            [mono]="true"
            [flaw]="problem()?.of('passphrase')"
            [readonly]="!session.mayChange()"
            [value]="text().passphrase"
            (typed)="set({ passphrase: $event })"
          >
            @if (session.mayChange()) {
              <button beside mat-button type="button" (click)="reveal()">{{ shown() ? 'Hide' : 'Show' }}</button>
            }
          </il-text-cell>
          <il-choice-cell
            label="Segment its clients join"
            for="ssid-segment"
            hint="Each site looks it up by name"
            [options]="segments()"
            [value]="text().segment"
            [disabled]="!session.mayChange()"
            [flaw]="problem()?.of('segment')"
            (chosen)="set({ segment: $event })"
          >
            <mat-checkbox
              [disabled]="!session.mayChange()"
              [checked]="text().byClass ?? false"
              (change)="set({ byClass: $event.checked || null })"
              >but clients of an access class join its segment</mat-checkbox
            >
          </il-choice-cell>
          <il-cell
            label="Bands"
            size="wide"
            role="group"
            aria-label="Bands"
            hint="6 GHz takes WPA3 only."
            [flaw]="problem()?.of('bands')"
          >
            @for (band of bands; track band) {
              <mat-checkbox
                [disabled]="!session.mayChange()"
                [checked]="text().bands.includes(band)"
                (change)="toggle(band)"
                >{{ band }} GHz</mat-checkbox
              >
            }
          </il-cell>
          <il-beacon-cell [of]="id()" [sent]="text()" />
          <il-cell
            label="Clients are kept from"
            size="wide"
            role="group"
            aria-label="Clients are kept from"
            hint="Whatever their segment is. The rules it results in, and where they take effect, are shown under Rules."
          >
            @for (each of apart; track each.key) {
              <mat-checkbox
                [disabled]="!session.mayChange()"
                [checked]="text().isolation?.[each.key] ?? false"
                (change)="keepFrom(each.key, $event.checked)"
                >{{ each.label }}</mat-checkbox
              >
            }
          </il-cell>
          <il-reach-cell
            for="ssid-reach"
            [of]="id()"
            [reach]="text().reach"
            [disabled]="!session.mayChange()"
            (chosen)="set({ reach: $event })"
          />
          <il-text-cell
            label="What it is for"
            for="ssid-purpose"
            size="wide"
            hint="Found by it"
            [flaw]="problem()?.of('purpose')"
            [readonly]="!session.mayChange()"
            [value]="text().purpose"
            (typed)="set({ purpose: $event })"
          />
          @if (ssid() && shared.atEstate()) {
            <il-at-sites kind="ssid" stage="wireless" [id]="ssid()!.id" />
          }
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
    mat-checkbox {
      margin-right: 10px;
    }
  `,
})
export class SsidSheet {
  private readonly http = inject(HttpClient);
  protected readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
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
  protected readonly bands = BANDS;
  protected readonly securities = Object.entries(SECURITY_WORDS).map(([value, label]) => ({ value, label }));
  protected readonly segments = computed(() => this.shared.joinChoices(this.text().segment, true));
  protected readonly form = new EditForm<Ssid, SsidText>({
    kept: () => this.ssid(),
    idOf: ({ id }) => id,
    textOf: (ssid) => textOf(ssid, this.shared.newReach()),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly id = computed(() => this.ssid()?.id ?? null);
  protected readonly shown = anewFor(this.id, () => false);
  protected readonly note = computed(() => {
    const reach = this.ssid()?.reach;
    if (!reach && this.shared.atEstate()) return 'Sent by the access points of every site it reaches.';
    if (!reach) return `Sent by the access points of ${this.store.site()?.name}.`;
    if (reach.kind === 'estate') return 'An edit applies to the whole estate.';
    return reach.siteIds.length === 1
      ? `Only at ${this.shared.atEstate() ? 'one' : 'this'} site.`
      : `An edit applies to all ${reach.siteIds.length} sites it reaches.`;
  });

  protected readonly other = computed(() => this.form.other(['name', 'passphrase', 'segment', 'bands', 'purpose']));
  /** Whether it would reach no site at all. */
  protected readonly nowhere = computed(() => {
    const { reach } = this.text();
    return reach.kind === 'sites' && reach.siteIds.length === 0;
  });

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
    const { name, security, passphrase, bands, segment, isolation, byClass, reach, purpose } = this.text();
    const [id, secret] = [crypto.randomUUID(), crypto.randomUUID()];
    const fields = { id, name, security, passphrase: { secret }, bands, segment, reach };
    const said = {
      ...(isolation ? { isolation } : {}),
      ...(byClass ? { byClass } : {}),
      ...(purpose ? { purpose } : {}),
    };
    const ssid: Ssid = { ...fields, ...said };
    return { operation: { type: 'ssid.add', ssid }, secrets: { [secret]: passphrase }, id };
  }

  private change(ssid: Ssid): { operation: Operation; secrets: Record<string, string>; id: string } {
    const { passphrase, purpose, ...text } = this.text();
    const fields = { ...text, purpose: purpose.trim() || null };
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

function textOf(ssid: Ssid | null, newReach: SharedReach): SsidText {
  if (!ssid)
    return {
      name: '',
      security: 'wpa2-wpa3-psk',
      passphrase: '',
      bands: ['2.4', '5'],
      segment: '',
      isolation: null,
      byClass: null,
      reach: newReach,
      purpose: '',
    };
  const { name, security, bands, segment, isolation = null, byClass = null, reach, purpose } = ssid;
  return { name, security, passphrase: '', bands, segment, isolation, byClass, reach, purpose: purpose ?? '' };
}
