import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatSnackBar } from '@angular/material/snack-bar';
import type { FirmwarePolicy } from '@iron-lattice/core/firmware';
import { readTags, type DeviceChange, type DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { typedOver } from '../ui/typed-over';
import { IntakeApi } from './intake-api';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';
import { anewFor } from '../ui/anew-for';

/** What can be said of a device: its name, its address, its light, its tags, what it does about new firmware. */
@Component({
  selector: 'il-device-form',
  imports: [FormsModule, MatButtonModule, Cell, TextCell, ChoiceCell],
  template: `
    <div class="cells">
      <il-text-cell
        label="Name"
        for="device-name"
        [hint]="proposed() && proposed() !== name() ? 'By convention the next free one is ' + proposed() : ''"
        [flaw]="problem()?.of('name')"
        [mono]="true"
        [readonly]="!may()"
        [value]="name()"
        (typed)="name.set($event)"
        (entered)="name() !== device().name && save({ name: name() })"
      >
        @if (may()) {
          <button
            beside
            mat-stroked-button
            [disabled]="busy() || name() === device().name"
            (click)="save({ name: name() })"
          >
            Rename
          </button>
        }
      </il-text-cell>
      <il-text-cell
        label="Tags"
        for="device-tags"
        hint="Parted by commas"
        [readonly]="!may()"
        [value]="tags()"
        (typed)="tags.set($event)"
        (entered)="tags() !== device().tags.join(', ') && save({ tags: readTags(tags()) })"
      >
        @if (may()) {
          <button
            beside
            mat-stroked-button
            [disabled]="busy() || tags() === device().tags.join(', ')"
            (click)="save({ tags: readTags(tags()) })"
          >
            Tag
          </button>
        }
      </il-text-cell>
      <il-text-cell
        label="What it is for"
        for="device-purpose"
        hint="Found by it"
        [flaw]="problem()?.of('purpose')"
        [readonly]="!may()"
        [value]="device().purpose"
        (done)="save({ purpose: $event })"
      />
      <il-choice-cell
        label="New firmware"
        for="device-policy"
        [options]="policies"
        [value]="device().policy"
        [disabled]="!may() || busy()"
        (chosen)="save({ policy: $event })"
      />
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
            <il-text-cell
              [label]="field.label"
              [for]="'device-' + field.key"
              [flaw]="problem()?.of(field.key)"
              [mono]="true"
              [value]="wish()[field.key]"
              (typed)="type(field.key, $event)"
              [readonly]="!may()"
            />
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
  protected readonly policies: readonly { readonly value: FirmwarePolicy; readonly label: string }[] = [
    { value: 'leave', label: 'Leave it as it is' },
    { value: 'window', label: 'Keep it current, in the site’s window' },
    { value: 'at-once', label: 'Bring it up to date when it is taken in' },
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
  protected readonly fixed = anewFor(this.fixedText, () => this.device().fixed !== null);
  protected readonly wish = typedOver(this.fixedText, () => {
    const proposed = this.proposals.hasValue() ? this.proposals.value().address : null;
    const { address = '', length = '', gateway = '', dns = [] } = this.device().fixed ?? proposed ?? {};
    return { address, length: String(length), gateway, dns: dns.join(', ') };
  });
  protected readonly problem = anewFor<Problem | null>(this.id, () => null);
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
    const { name, tags, policy, lightOff, fixed, purpose } = this.device();
    await attempt(this.busy, this.problem, async () => {
      const { version } = await this.api.change(this.id(), { ...change, version: this.device().version });
      this.changed.emit();
      const before: DeviceChange = {
        version,
        ...(change.name === undefined ? {} : { name: name ?? '' }),
        ...(change.tags === undefined ? {} : { tags }),
        ...(change.purpose === undefined ? {} : { purpose }),
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
