import { Component, computed, input, model } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import type { Flaw } from '@iron-lattice/core/base';
import { sheetOf } from '@iron-lattice/core/hardware';
import type { RosterDevice } from '@iron-lattice/core/intent';
import type { SegmentText, ServedBy } from './segment-text';

const PLACES: readonly { readonly key: ServedBy; readonly label: string; readonly hint: string }[] = [
  { key: 'gateway', label: 'Gateway', hint: 'The gateway that routes the segment gives the addresses.' },
  { key: 'switch', label: 'Switch', hint: 'A switch gives them at an address of its own; the gateway still routes.' },
  {
    key: 'each ap',
    label: 'Each AP',
    hint: 'Every AP gives its own clients addresses and translates for them; the segment never leaves it.',
  },
  {
    key: 'one ap',
    label: 'One AP',
    hint: 'One AP gives addresses to all and translates; the others carry the segment to it.',
  },
  {
    key: 'tree',
    label: 'Several APs',
    hint: 'Root APs give addresses and translate, each for the APs nearer to it than to another.',
  },
  { key: 'relay', label: 'Elsewhere', hint: 'The gateway passes requests on to a server that is not ours.' },
  { key: 'none', label: 'Nobody', hint: 'Clients need fixed addresses.' },
];

/** Where a segment's addresses are given, drawn small so that the difference shows. */
@Component({
  selector: 'il-served-from',
  imports: [FormsModule, MatFormFieldModule, MatInputModule],
  template: `
    <div class="cell full">
      <span class="label">Addresses are given by</span>
      <div class="places" role="radiogroup" aria-label="Addresses are given by">
        @for (place of places; track place.key) {
          <button
            type="button"
            role="radio"
            [disabled]="readonly()"
            [attr.aria-checked]="text().servedBy === place.key"
            (click)="set({ servedBy: place.key })"
          >
            <svg width="96" height="40" viewBox="0 0 96 40" aria-hidden="true">
              @if (place.key !== 'none') {
                <path d="M12 32 30 20M12 8 30 20M30 20H72" class="line" />
              }
              <g class="box">
                <rect x="6" y="4" width="10" height="8" [class.on]="serves(place.key, 'ap1')" />
                <rect x="6" y="28" width="10" height="8" [class.on]="serves(place.key, 'ap2')" />
                <rect x="26" y="16" width="10" height="8" [class.on]="place.key === 'switch'" />
                <rect x="52" y="16" width="10" height="8" [class.on]="place.key === 'gateway'" />
                @if (place.key === 'relay') {
                  <path d="M62 20H82" class="line dots" />
                  <circle cx="86" cy="20" r="5" class="on" />
                }
              </g>
            </svg>
            <span>{{ place.label }}</span>
          </button>
        }
      </div>
      <p class="hint">{{ hint() }}</p>
      @if (flaw()) {
        <p class="flaw" role="alert">{{ flaw() }}</p>
      }
    </div>
    @if (asksDevices(); as asked) {
      <div class="cell">
        <label for="segment-servedDevices">{{ asked.label }}</label>
        <mat-form-field class="mono-field">
          <input
            matInput
            id="segment-servedDevices"
            name="servedDevices"
            autocomplete="off"
            [readonly]="readonly()"
            [ngModel]="text().servedDevices"
            (ngModelChange)="set({ servedDevices: $event })"
          />
        </mat-form-field>
        <p class="hint">
          @for (name of asked.names; track name) {
            <button type="button" class="pick mono" [disabled]="readonly()" (click)="take(name)">{{ name }}</button>
          } @empty {
            There is none at this site.
          }
        </p>
      </div>
    }
    @if (text().servedBy === 'switch' || text().servedBy === 'relay') {
      <div class="cell">
        <label for="segment-servedAddress">{{
          text().servedBy === 'switch' ? 'Address of the switch here' : 'Address of the server'
        }}</label>
        <mat-form-field class="mono-field">
          <input
            matInput
            id="segment-servedAddress"
            name="servedAddress"
            autocomplete="off"
            [readonly]="readonly()"
            [ngModel]="text().servedAddress"
            (ngModelChange)="set({ servedAddress: $event })"
          />
        </mat-form-field>
        <p class="hint">{{ text().servedBy === 'switch' ? 'In the subnet, not in a range' : 'Outside the segment' }}</p>
      </div>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .places {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      margin-top: 3px;
    }
    .places button {
      all: unset;
      box-sizing: border-box;
      cursor: pointer;
      border: 1px solid var(--strong);
      padding: 3px 8px 4px;
      display: flex;
      flex-direction: column;
      align-items: center;
      font-weight: 500;
      line-height: 15px;
    }
    .places button[aria-checked='true'] {
      border-color: var(--ink);
      box-shadow: inset 0 -3px 0 var(--iron);
    }
    .places button:focus-visible,
    .pick:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: 1px;
    }
    .line {
      stroke: var(--strong);
      stroke-width: 1.5;
      fill: none;
    }
    .dots {
      stroke-dasharray: 2 3;
    }
    .box rect {
      fill: var(--sheet);
      stroke: var(--soft);
    }
    .box rect.on,
    circle.on {
      fill: var(--iron);
      stroke: var(--iron);
    }
    .pick {
      all: unset;
      cursor: pointer;
      text-decoration: underline;
      margin-right: 8px;
      font-size: 12px;
    }
  `,
})
export class ServedFrom {
  readonly text = model.required<SegmentText>();
  readonly roster = input.required<readonly RosterDevice[]>();
  readonly flaws = input<readonly Flaw[]>([]);
  readonly readonly = input(false);
  protected readonly places = PLACES;
  protected readonly hint = computed(() => PLACES.find((place) => place.key === this.text().servedBy)!.hint);
  protected readonly flaw = computed(() =>
    this.flaws()
      .filter(({ field }) => field === 'from')
      .map(({ message }) => message)
      .join(' '),
  );
  protected readonly asksDevices = computed(() => {
    const { servedBy } = this.text();
    const kind = servedBy === 'switch' ? 'switch' : servedBy === 'one ap' || servedBy === 'tree' ? 'ap' : null;
    if (!kind) return null;
    const names = this.roster()
      .filter((device) => (sheetOf(device.model) ?? device.sheet)?.kind === kind)
      .map((device) => device.name);
    return { label: kind === 'switch' ? 'Switch' : servedBy === 'tree' ? 'Root APs' : 'AP', names: names.slice(0, 24) };
  });

  protected serves(key: ServedBy, box: 'ap1' | 'ap2'): boolean {
    return key === 'each ap' || key === 'tree' || (key === 'one ap' && box === 'ap1');
  }

  protected set(change: Partial<SegmentText>): void {
    this.text.set({ ...this.text(), ...change });
  }

  /** Names a device by press: one at a time, or one more of several. */
  protected take(name: string): void {
    const { servedBy, servedDevices } = this.text();
    const names = servedDevices.split(/[\s,]+/).filter((each) => each !== '' && each !== name);
    const had = servedDevices.split(/[\s,]+/).includes(name);
    this.set({ servedDevices: servedBy === 'tree' ? [...names, ...(had ? [] : [name])].join(' ') : name });
  }
}
