import { lastsWords } from '@iron-lattice/core/base';
import { Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { kindWords, MOST_DESK_CODES, type DeskCodes } from '@iron-lattice/core/guests';
import { attempt, type Problem } from '../../session/problem';
import { counted } from '../../ui/counted';
import { DeskStore } from './desk-store';

/** What is offered to be pressed, in minutes. */
const LASTS = [60, 240, 1440, 4320, 10_080] as const;
const DEVICES: readonly (number | null)[] = [1, 2, 4, null];

/** A new code in ten seconds: who for, how long, on how many devices. */
@Component({
  selector: 'il-desk-new',
  imports: [FormsModule, MatButtonModule],
  template: `
    <form (ngSubmit)="make()">
      @if (store.site()?.portals; as portals) {
        @if (portals.length > 1) {
          <fieldset>
            <legend>Opens</legend>
            <div class="choices" role="group" aria-label="Opens">
              @for (each of portals; track each.id) {
                <button
                  type="button"
                  [attr.aria-pressed]="each.id === store.portal()?.id"
                  (click)="store.choosePortal(each.id)"
                >
                  {{ each.name }}
                </button>
              }
            </div>
          </fieldset>
        }
      }
      <div class="pair">
        <div class="of">
          <label for="desk-name">Who for</label>
          <input
            id="desk-name"
            name="name"
            autocomplete="off"
            maxlength="80"
            placeholder="Cabin 12"
            [ngModel]="name()"
            (ngModelChange)="name.set($event)"
          />
        </div>
        <div>
          <label for="desk-count">Codes</label>
          <input
            id="desk-count"
            name="count"
            class="few"
            inputmode="numeric"
            autocomplete="off"
            [ngModel]="count()"
            (ngModelChange)="count.set($event)"
          />
        </div>
      </div>
      @if (kinds().length > 0) {
        <fieldset>
          <legend>Kind</legend>
          <div class="choices kinds" role="group" aria-label="Kind">
            @for (each of kinds(); track each.name) {
              <button
                type="button"
                [title]="kindWords(each)"
                [attr.aria-pressed]="each.minutes === minutes() && each.most === most()"
                (click)="chosen.set(each.minutes); most.set(each.most)"
              >
                {{ each.name }}
              </button>
            }
          </div>
        </fieldset>
      }
      <fieldset>
        <legend>Lasts, from its first use</legend>
        <div class="choices" role="group" aria-label="Lasts">
          @for (each of lasts(); track each) {
            <button type="button" [attr.aria-pressed]="each === minutes()" (click)="chosen.set(each)">
              {{ words(each) }}
            </button>
          }
        </div>
      </fieldset>
      <fieldset>
        <legend>Devices</legend>
        <div class="choices" role="group" aria-label="Devices">
          @for (each of devices(); track each) {
            <button type="button" [attr.aria-pressed]="each === most()" (click)="most.set(each)">
              {{ each ?? 'any' }}
            </button>
          }
        </div>
      </fieldset>
      @if (flaw(); as text) {
        <p class="flaw" role="alert">{{ text }}</p>
      }
      <div class="make">
        <button mat-flat-button type="submit" [disabled]="busy() || number() === null || !store.portal()">
          {{ label() }}
        </button>
      </div>
    </form>
  `,
  styles: `
    form {
      display: flex;
      flex-direction: column;
      gap: 4px;
    }
    label,
    legend {
      padding: 0;
      font:
        500 14px/20px 'Barlow Semi Condensed',
        Barlow;
      color: var(--soft);
    }
    fieldset {
      border: 0;
      margin: 8px 0 4px;
      padding: 0;
      min-width: 0;
    }
    input {
      height: 44px;
      padding: 0 12px;
      font: 500 18px/24px Barlow;
      color: var(--ink);
      background: var(--ground);
      border: 1px solid var(--strong);
    }
    input:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: -1px;
    }
    .pair {
      display: flex;
      gap: 10px;
    }
    .pair > div {
      display: flex;
      flex-direction: column;
      gap: 4px;
    }
    .of {
      flex: 1;
      min-width: 0;
    }
    input.few {
      width: 72px;
    }
    .choices {
      display: flex;
    }
    .choices button {
      flex: 1;
      justify-content: center;
      min-width: 0;
      height: 44px;
      padding: 0 4px;
      font-size: 16px;
    }
    /* As many rows as their names take. */
    .choices.kinds {
      flex-wrap: wrap;
    }
    .choices.kinds button {
      flex: 1 0 auto;
      padding: 0 12px;
    }
    .make button {
      width: 100%;
      height: 52px;
      margin-top: 8px;
      font-size: 18px;
    }
    /* Within reach, of the thumb too, wherever one has scrolled. */
    .make {
      position: sticky;
      bottom: 0;
      padding-bottom: 10px;
      background: var(--sheet);
    }
  `,
})
export class DeskNew {
  protected readonly store = inject(DeskStore);
  /** What is chosen is among them, whatever a kind says. */
  protected readonly devices = computed(() => {
    const most = this.most();
    if (most === null || DEVICES.includes(most)) return DEVICES;
    return [...DEVICES, most].sort((a, b) => (a ?? Infinity) - (b ?? Infinity));
  });
  protected readonly words = lastsWords;
  protected readonly kindWords = kindWords;
  protected readonly kinds = computed(() => this.store.portal()?.kinds ?? []);
  protected readonly name = signal('');
  protected readonly chosen = signal<number | null>(null);
  protected readonly most = signal<number | null>(1);
  protected readonly count = signal('1');
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  /** What a visit usually lasts there is offered too. */
  protected readonly lasts = computed(() => {
    const visit = this.store.portal()?.visit;
    const chosen = this.chosen();
    return [...new Set([...LASTS, ...(visit ? [visit] : []), ...(chosen ? [chosen] : [])])].sort((a, b) => a - b);
  });
  protected readonly minutes = computed(() => this.chosen() ?? this.store.portal()?.visit ?? LASTS[2]);
  protected readonly number = computed(() => {
    const number = Number(this.count());
    return /^\d+$/.test(this.count().trim()) && number >= 1 && number <= MOST_DESK_CODES ? number : null;
  });
  protected readonly flaw = computed(() =>
    this.number() === null ? `From 1 to ${MOST_DESK_CODES} codes at once.` : (this.problem()?.message ?? ''),
  );
  protected readonly label = computed(() => {
    const number = this.number();
    return number !== null && number > 1 ? `Make ${counted(number, 'code')}` : 'Make code';
  });

  constructor() {
    effect(() => {
      this.name();
      untracked(() => this.problem.set(null));
    });
  }

  protected async make(): Promise<void> {
    const [site, portal, count] = [this.store.site(), this.store.portal(), this.number()];
    if (!site || !portal || count === null || this.busy()) return;
    const asked: DeskCodes = {
      ...{ portalId: portal.id, siteId: site.id, count, name: this.name().trim() },
      ...{ minutes: this.minutes(), most: this.most() },
    };
    const typed = [this.name(), this.count()] as const;
    if (!(await attempt(this.busy, this.problem, () => this.store.make(asked)))) return;
    // Whoever comes next may have been typed meanwhile.
    if (this.name() === typed[0]) this.name.set('');
    if (this.count() === typed[1]) this.count.set('1');
  }
}
