import { Component, computed, inject, input, linkedSignal, output, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatSelectModule } from '@angular/material/select';
import { MatSnackBar } from '@angular/material/snack-bar';
import type { FirmwarePolicy } from '@iron-lattice/core/firmware';
import { readTags, type DeviceChange, type DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { typedOver } from '../ui/typed-over';
import { IntakeApi } from './intake-api';

/** What can be said of a device: its name, its address, its light, its tags, what it does about new firmware. */
@Component({
  selector: 'il-device-form',
  imports: [FormsModule, MatButtonModule, MatFormFieldModule, MatInputModule, MatSelectModule, Cell],
  template: `
    <div class="cells">
      <il-cell
        label="Name"
        for="device-name"
        [hint]="proposed() && proposed() !== name() ? 'By convention the next free one is ' + proposed() : ''"
        [flaw]="problem()?.of('name')"
      >
        <form class="row" (ngSubmit)="save({ name: name() })">
          <mat-form-field class="mono-field">
            <input
              matInput
              id="device-name"
              name="name"
              [ngModel]="name()"
              (ngModelChange)="name.set($event)"
              [readonly]="!may()"
            />
          </mat-form-field>
          @if (may()) {
            <button mat-stroked-button type="submit" [disabled]="busy() || name() === device().name">Rename</button>
          }
        </form>
      </il-cell>
      <il-cell label="Tags" for="device-tags" hint="Parted by commas">
        <form class="row" (ngSubmit)="save({ tags: readTags(tags()) })">
          <mat-form-field>
            <input
              matInput
              id="device-tags"
              name="tags"
              [ngModel]="tags()"
              (ngModelChange)="tags.set($event)"
              [readonly]="!may()"
            />
          </mat-form-field>
          @if (may()) {
            <button mat-stroked-button type="submit" [disabled]="busy() || tags() === device().tags.join(', ')">
              Tag
            </button>
          }
        </form>
      </il-cell>
      <il-cell label="New firmware" for="device-policy">
        <mat-form-field>
          <mat-select
            id="device-policy"
            aria-label="New firmware"
            [value]="device().policy"
            [disabled]="!may() || busy()"
            (valueChange)="save({ policy: $event })"
          >
            @for (each of policies; track each.policy) {
              <mat-option [value]="each.policy">{{ each.words }}</mat-option>
            }
          </mat-select>
        </mat-form-field>
      </il-cell>
      <il-cell label="Status light">
        <div class="choices" role="group" aria-label="Status light">
          <button
            type="button"
            [disabled]="!may()"
            [attr.aria-pressed]="!device().lightOff"
            (click)="save({ lightOff: false })"
          >
            On
          </button>
          <button
            type="button"
            [disabled]="!may()"
            [attr.aria-pressed]="device().lightOff"
            (click)="save({ lightOff: true })"
          >
            Off
          </button>
        </div>
      </il-cell>
      <il-cell label="Management address" size="full" [hint]="addressHint()">
        <div class="choices" role="group" aria-label="Management address">
          <button type="button" [disabled]="!may()" [attr.aria-pressed]="!fixed()" (click)="byDhcp()">By DHCP</button>
          <button type="button" [disabled]="!may()" [attr.aria-pressed]="fixed()" (click)="fixed.set(true)">
            Fixed
          </button>
        </div>
      </il-cell>
      @if (fixed()) {
        <form class="cells full" (ngSubmit)="saveAddress()">
          @for (field of fields; track field.key) {
            <il-cell [label]="field.label" [for]="'device-' + field.key" [flaw]="problem()?.of(field.key)">
              <mat-form-field class="mono-field">
                <input
                  matInput
                  [id]="'device-' + field.key"
                  [name]="field.key"
                  [ngModel]="wish()[field.key]"
                  (ngModelChange)="type(field.key, $event)"
                  [readonly]="!may()"
                />
              </mat-form-field>
            </il-cell>
          }
          @if (may()) {
            <il-cell label="Taken on trial: a device that loses its way goes back.">
              <button mat-flat-button type="submit" [disabled]="busy()">Give it this address</button>
            </il-cell>
          }
        </form>
      }
      @if (problem(); as refused) {
        @if (refused.flaws.length === 0) {
          <div class="cell full">
            <p class="flaw" role="alert">{{ refused.message }}</p>
          </div>
        }
      }
    </div>
  `,
  styles: `
    .row {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    .row mat-form-field {
      flex: 1;
    }
    .full {
      width: 100%;
    }
    .choices button:disabled {
      cursor: default;
    }
  `,
})
export class DeviceForm {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  private readonly snack = inject(MatSnackBar);
  private readonly session = inject(SessionStore);
  readonly device = input.required<DeviceView>();
  readonly changed = output<void>();

  protected readonly readTags = readTags;
  protected readonly policies: readonly { readonly policy: FirmwarePolicy; readonly words: string }[] = [
    { policy: 'leave', words: 'Leave it as it is' },
    { policy: 'window', words: 'Keep it current, in the site’s window' },
    { policy: 'at-once', words: 'Bring it up to date when it is taken in' },
  ];
  protected readonly fields = [
    { key: 'address', label: 'Address' },
    { key: 'length', label: 'Prefix length' },
    { key: 'gateway', label: 'Gateway' },
    { key: 'dns', label: 'Name servers' },
  ] as const;
  protected readonly may = this.session.mayChange;
  private readonly id = computed(() => this.device().id);
  protected readonly name = typedOver(this.id, () => this.device().name ?? '');
  protected readonly tags = typedOver(this.id, () => this.device().tags.join(', '));
  private readonly proposals = resource({
    params: () => this.id(),
    loader: ({ params }) => this.api.proposals(params),
  });
  protected readonly proposed = computed(() => (this.proposals.hasValue() ? this.proposals.value().name : ''));
  /** Keyed by text, so that what somebody types is not lost when the device is fetched again. */
  private readonly fixedText = computed(() => JSON.stringify([this.id(), this.device().fixed]));
  protected readonly fixed = linkedSignal<string, boolean>({
    source: this.fixedText,
    computation: () => this.device().fixed !== null,
  });
  protected readonly wish = typedOver(this.fixedText, () => {
    const proposed = this.proposals.hasValue() ? this.proposals.value().address : null;
    const { address = '', length = '', gateway = '', dns = [] } = this.device().fixed ?? proposed ?? {};
    return { address, length: String(length), gateway, dns: dns.join(', ') };
  });
  protected readonly problem = linkedSignal<string, Problem | null>({ source: this.id, computation: () => null });
  protected readonly busy = signal(false);
  protected readonly addressHint = computed(() => {
    const segment = this.proposals.hasValue() ? this.proposals.value().segment : null;
    return segment ? `It lives in ${segment.name}, ${segment.subnet}.` : '';
  });

  protected type(key: 'address' | 'length' | 'gateway' | 'dns', text: string): void {
    this.wish.update((wish) => ({ ...wish, [key]: text }));
  }

  protected byDhcp(): void {
    if (this.device().fixed === null) this.fixed.set(false);
    else void this.save({ fixed: null });
  }

  protected saveAddress(): Promise<void> {
    return this.save({ fixed: this.wish() });
  }

  /** Changes it at once; what was before can be brought back in passing. */
  protected async save(change: DeviceChange): Promise<void> {
    const { name, tags, policy, lightOff, fixed } = this.device();
    await attempt(this.busy, this.problem, async () => {
      const { version } = await this.api.change(this.id(), { ...change, version: this.device().version });
      this.changed.emit();
      const before: DeviceChange = {
        version,
        ...(change.name === undefined ? {} : { name: name ?? '' }),
        ...(change.tags === undefined ? {} : { tags }),
        ...(change.policy === undefined ? {} : { policy }),
        ...(change.lightOff === undefined ? {} : { lightOff }),
        ...(change.fixed === undefined
          ? {}
          : { fixed: fixed && { ...fixed, length: String(fixed.length), dns: fixed.dns.join(', ') } }),
      };
      const id = this.id();
      this.snack
        .open(`${change.name ?? name} was changed.`, 'Undo', { duration: 8000 })
        .onAction()
        .subscribe(() => void this.site.attempt(async () => void (await this.api.change(id, before))));
    });
  }
}
