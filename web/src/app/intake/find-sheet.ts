import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceRow } from '@iron-lattice/core/intake';
import { EstateStore } from '../shell/estate-store';
import { Sheet } from '../ui/sheet';
import { StateMark } from '../ui/state-mark';
import { FindByLabel } from './find-by-label';
import { FindByList } from './find-by-list';
import { FindBySweep } from './find-by-sweep';

const PHONE = globalThis.matchMedia?.('(max-width: 720px)').matches ?? false;
const WAYS = ['Calling', 'Sweep', 'Serial list', 'Label'] as const;
type Way = (typeof WAYS)[number];

/** Four ways to find devices: those that call, a sweep, a list of serial numbers, a label. */
@Component({
  selector: 'il-find-sheet',
  imports: [MatButtonModule, Sheet, StateMark, FindByLabel, FindByList, FindBySweep],
  template: `
    <il-sheet heading="Find devices" [note]="note()" (closed)="closed.emit()">
      <il-state-mark lead state="calling" />
      <div ngProjectAs="[actions]" class="choices ways" role="group" aria-label="Way">
        @for (each of ways; track each) {
          <button type="button" [attr.aria-pressed]="way() === each" (click)="way.set(each)">
            {{ each }}
            @if (each === 'Calling') {
              <b class="info">{{ calling().length }}</b>
            }
          </button>
        }
      </div>
      @switch (way()) {
        @case ('Sweep') {
          <il-find-by-sweep [siteId]="siteId()" />
        }
        @case ('Serial list') {
          <il-find-by-list [siteId]="siteId()" (done)="closed.emit()" />
        }
        @case ('Label') {
          <il-find-by-label [siteId]="siteId()" />
        }
        @default {
          <div class="calling">
            @if (calling().length === 0) {
              <p class="soft">
                No device calls that is not ours already. Cable a box to the internet: out of the carton it calls
                {{ address() }}
                by itself and appears here within seconds. One that does not know its controller is found by a sweep.
              </p>
            } @else if (siteId()) {
              <p>
                {{ calling().length === 1 ? 'One device calls.' : calling().length + ' devices call.' }} Choose in the
                table those that stand here, and claim them.
              </p>
              <button mat-flat-button (click)="claim.emit(ids())">Choose all {{ calling().length }}</button>
              <button mat-stroked-button (click)="typed.emit()">Claim by serial number</button>
            } @else {
              <p>
                {{ calling().length === 1 ? 'One device calls.' : calling().length + ' devices call.' }} Open the site
                they stand at, and claim them under Intake.
              </p>
            }
          </div>
        }
      }
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .calling {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 10px 16px;
      padding: 10px 14px;
    }
    .calling p {
      max-width: 70ch;
    }
    @media (max-width: 720px) {
      .ways button {
        height: 38px;
      }
    }
  `,
})
export class FindSheet {
  private readonly estate = inject(EstateStore);
  /** Null for the whole estate. */
  readonly siteId = input.required<string | null>();
  readonly calling = input.required<readonly DeviceRow[]>();
  readonly closed = output<void>();
  /** Ids of devices that are to be claimed. */
  readonly claim = output<readonly string[]>();
  /** Somebody wants to type serial numbers of devices that call. */
  readonly typed = output<void>();
  protected readonly ways = WAYS;
  /** With a phone in hand the label is what one stands before. */
  protected readonly way = signal<Way>(PHONE ? 'Label' : 'Calling');
  protected readonly ids = computed(() => this.calling().map((device) => device.id));
  protected readonly address = computed(() => location.origin);
  protected readonly note = computed(() => {
    const site = this.estate.estate()?.sites.find((each) => each.id === this.siteId());
    return site ? `for ${site.name}` : 'for the estate';
  });
}
