import { Component, computed, effect, inject, input, linkedSignal, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { Stage } from '../ui/stage';
import { StateMark } from '../ui/state-mark';
import { ClaimSheet } from './claim-sheet';
import { DeviceSheet } from './device-sheet';

type Filter = 'all' | 'calling' | 'behind' | 'stuck' | 'silent';

/** Devices that call, and those of this site. */
@Component({
  selector: 'il-intake-page',
  imports: [MatButtonModule, MatCheckboxModule, Stage, StateMark, ClaimSheet, DeviceSheet],
  template: `
    <il-stage heading="Intake" [note]="note()">
      <div actions class="choices" role="group" aria-label="Show">
        @for (choice of filters(); track choice.filter) {
          <button type="button" [attr.aria-pressed]="filter() === choice.filter" (click)="filter.set(choice.filter)">
            {{ choice.words }} <b [class]="choice.tone">{{ choice.count }}</b>
          </button>
        }
      </div>
      @if (session.mayChange()) {
        <button actions mat-stroked-button (click)="claimBySerial()">Claim by serial number</button>
      }
      <table class="grid" (keydown.arrowDown)="step($event, 1)" (keydown.arrowUp)="step($event, -1)">
        <caption class="visually-hidden">
          Devices
        </caption>
        <thead>
          <tr>
            <th class="pick"><span class="visually-hidden">Chosen</span></th>
            <th>State</th>
            <th>Name</th>
            <th class="second">Model</th>
            <th>Serial</th>
            <th class="third">MAC</th>
            <th class="second">Address</th>
            <th class="third">Firmware</th>
            <th class="second">Hangs on</th>
          </tr>
        </thead>
        <tbody>
          @if (callingShown().length > 0) {
            <tr class="group">
              <td colspan="9">
                Calling
                @if (session.mayChange() && callingShown().length > 1) {
                  <button mat-button (click)="chooseAll()">Choose all {{ callingShown().length }}</button>
                }
              </td>
            </tr>
            @for (device of callingShown(); track device.id) {
              <tr [class.chosen]="chosen().has(device.serial)" (click)="toggle(device)">
                <td class="pick">
                  <mat-checkbox
                    [checked]="chosen().has(device.serial)"
                    (click)="$event.stopPropagation()"
                    (change)="toggle(device)"
                    [disabled]="!session.mayChange()"
                    [aria-label]="'Choose ' + device.serial"
                  />
                </td>
                <td><il-state-mark [state]="device.state" /> {{ device.state }}</td>
                <td class="soft">–</td>
                <td class="second">{{ device.title }}</td>
                <td class="mono">{{ device.serial }}</td>
                <td class="mono third">{{ device.mac }}</td>
                <td class="mono second">–</td>
                <td class="mono third">{{ device.firmware }}</td>
                <td class="second soft">not known before it is claimed</td>
              </tr>
            }
          }
          @if (filter() !== 'calling') {
            <tr class="group">
              <td colspan="9">Ours</td>
            </tr>
            @for (device of oursShown(); track device.id) {
              <tr [class.chosen]="shown()?.id === device.id" [attr.data-device]="device.id" (click)="open(device)">
                <td class="pick"></td>
                <td><il-state-mark [state]="device.state" /> {{ device.state }}</td>
                <td class="mono">
                  <button class="name" (click)="open(device); $event.stopPropagation()">{{ device.name }}</button>
                </td>
                <td class="second">{{ device.title }}</td>
                <td class="mono">{{ device.serial }}</td>
                <td class="mono third">{{ device.mac }}</td>
                <td class="mono second">{{ device.address ?? '–' }}</td>
                <td class="mono third">{{ device.firmware }}</td>
                <td class="mono second">{{ device.hangsOn ?? '–' }}</td>
              </tr>
            } @empty {
              <tr class="empty">
                <td colspan="9" class="soft">{{ empty() }}</td>
              </tr>
            }
          }
        </tbody>
      </table>
      <ng-container ngProjectAs="[foot]">
        @if (claiming()) {
          <il-claim-sheet [serials]="[...chosen()]" (closed)="closeClaim()" (done)="claimed($event)" />
        } @else if (shown(); as device) {
          <il-device-sheet [device]="device" (closed)="shownId.set(null)" />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .pick {
      width: 38px;
      padding: 0 0 0 6px !important;
    }
    .pick mat-checkbox {
      display: block;
      height: 24px;
      transform: scale(0.82);
    }
    .name {
      all: unset;
      cursor: pointer;
    }
    .name:focus-visible {
      outline: 2px solid var(--iron);
    }
    .group button {
      margin-left: 8px;
    }
    il-claim-sheet,
    il-device-sheet {
      display: contents;
    }
    @media (max-width: 1180px) {
      .third {
        display: none;
      }
    }
    @media (max-width: 720px) {
      .second {
        display: none;
      }
    }
  `,
})
export class IntakePage {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** Id of a device to show, from search or a finding. */
  readonly show = input<string>();
  /** Present when somebody asked to claim. */
  readonly add = input<string>();

  protected readonly filter = signal<Filter>('all');
  /** Serial numbers to be claimed. */
  protected readonly chosen = signal<ReadonlySet<string>>(new Set());
  protected readonly bySerial = linkedSignal(() => this.add() !== undefined);
  protected readonly shownId = linkedSignal<string | null>(() => this.show() ?? null);

  protected readonly shown = computed(() => this.store.devices().find((device) => device.id === this.shownId()));
  protected readonly claiming = computed(() => this.session.mayChange() && (this.bySerial() || this.chosen().size > 0));
  protected readonly callingShown = computed(() =>
    ['all', 'calling'].includes(this.filter()) ? this.store.calling() : [],
  );
  protected readonly oursShown = computed(() => {
    const filter = this.filter();
    return filter === 'all' ? this.store.devices() : this.store.devices().filter((device) => device.state === filter);
  });
  protected readonly filters = computed(() => {
    const [ours, calling] = [this.store.devices(), this.store.calling()];
    const count = (state: string): number => ours.filter((device) => device.state === state).length;
    const choices: { filter: Filter; words: string; count: number; tone: string }[] = [
      { filter: 'all', words: 'All', count: ours.length + calling.length, tone: '' },
      { filter: 'calling', words: 'Calling', count: calling.length, tone: 'info' },
      { filter: 'behind', words: 'Behind', count: count('behind'), tone: 'caution' },
      { filter: 'silent', words: 'Silent', count: count('silent'), tone: '' },
      { filter: 'stuck', words: 'Stuck', count: count('stuck'), tone: 'bad' },
    ];
    return choices.filter((choice) => choice.count > 0 || ['all', 'calling', this.filter()].includes(choice.filter));
  });
  protected readonly note = computed(() => {
    const count = this.store.devices().length;
    return count === 1 ? '1 device here' : `${count} devices here`;
  });
  protected readonly empty = computed(() => {
    if (this.filter() !== 'all') return 'None.';
    return this.store.calling().length > 0
      ? 'No device at this site yet. Choose the boxes that stand here above, and claim them.'
      : 'No device at this site yet. Cable a box to the internet: it calls by itself and appears here.';
  });

  constructor() {
    effect(() => {
      // A device that stopped calling stays chosen, so that the claim says so rather than leaving it out silently.
      const ours = new Set(this.store.devices().map((device) => device.serial));
      const still = [...this.chosen()].filter((serial) => !ours.has(serial));
      if (still.length !== this.chosen().size) this.chosen.set(new Set(still));
    });
  }

  protected toggle({ serial }: DeviceView): void {
    if (!this.session.mayChange()) return;
    const next = new Set(this.chosen());
    if (!next.delete(serial)) next.add(serial);
    this.chosen.set(next);
  }

  protected chooseAll(): void {
    this.chosen.set(new Set(this.callingShown().map((device) => device.serial)));
  }

  protected claimBySerial(): void {
    this.bySerial.set(true);
  }

  protected open(device: DeviceView): void {
    this.closeClaim();
    this.shownId.set(device.id);
  }

  protected closeClaim(): void {
    this.bySerial.set(false);
    this.chosen.set(new Set());
  }

  protected async claimed(devices: readonly DeviceView[]): Promise<void> {
    this.closeClaim();
    await this.store.reloadDevices();
    this.shownId.set(devices[0]?.id ?? null);
  }

  /** Walks the sheet from device to device. */
  protected step(event: Event, by: number): void {
    const list = this.oursShown();
    const at = list.findIndex((device) => device.id === this.shownId());
    const next = list[at + by];
    if (at < 0 || !next) return;
    event.preventDefault();
    this.shownId.set(next.id);
    document.querySelector<HTMLElement>(`[data-device="${next.id}"] .name`)?.focus();
  }
}
