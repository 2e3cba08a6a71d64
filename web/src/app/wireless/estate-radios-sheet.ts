import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Operation, RadioEntry } from '@iron-lattice/core/intent';
import type { EstateRadio } from '@iron-lattice/core/wireless';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { inCommon, pickedRows, powerTyped, type PickedRows } from '../shell/picked-rows';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { ChoiceCell, DIFFERS, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';

interface RadioText {
  readonly on: unknown;
  readonly channel: unknown;
  readonly width: unknown;
  readonly power: string;
  readonly fixed: unknown;
}

/** Radios of any sites, changed together: how many at how many sites is said, and nothing is told to them before a rollout. */
@Component({
  selector: 'il-estate-radios-sheet',
  imports: [MatButtonModule, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" (closed)="closed.emit()">
      @if (rows().length === 1) {
        <button actions mat-button type="button" (click)="toSite.emit(rows()[0]!)">At its site</button>
      }
      @if (session.mayChange() && said()) {
        <button actions mat-stroked-button type="button" (click)="make(forgotten)">As their bands say again</button>
      }
      <div class="cells">
        <il-choice-cell
          label="Send"
          for="radios-on"
          [disabled]="!session.mayChange()"
          [options]="onChoices"
          [value]="text().on"
          (chosen)="set({ on: $event })"
        />
        <il-choice-cell
          label="Channel"
          for="radios-channel"
          [hint]="bands() > 1 ? 'Radios of one band at a time' : 'Those that are legal at each of their sites'"
          [flaw]="problem()?.of('channel')"
          [disabled]="!session.mayChange() || bands() > 1"
          [options]="channels()"
          [value]="text().channel"
          (chosen)="set({ channel: $event })"
        />
        <il-choice-cell
          label="Width, MHz"
          for="radios-width"
          [flaw]="problem()?.of('width')"
          [disabled]="!session.mayChange()"
          [options]="widths()"
          [value]="text().width"
          (chosen)="set({ width: $event })"
        />
        <il-text-cell
          label="Power, dBm EIRP"
          for="radios-power"
          [hint]="powerHint()"
          [flaw]="problem()?.of('power')"
          [mono]="true"
          [readonly]="!session.mayChange()"
          example="the most there is"
          [value]="text().power"
          (done)="setPower($event)"
        />
        <il-choice-cell
          label="Plans of channels"
          for="radios-fixed"
          [disabled]="!session.mayChange()"
          [options]="fixedChoices"
          [value]="text().fixed"
          (chosen)="set({ fixed: $event })"
        />
        @if (message(); as text) {
          <p class="cell full flaw" role="alert">{{ text }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class EstateRadiosSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly rows = input.required<readonly EstateRadio[]>();
  readonly closed = output<void>();
  /** The one that is chosen is asked for at its site. */
  readonly toSite = output<EstateRadio>();
  /** Asks anew what the draft says of them: the next edit is made of that. */
  readonly again = input.required<() => Promise<void>>();
  private readonly turns = new Turns();
  protected readonly forgotten = (): null => null;
  protected readonly onChoices: readonly Choice[] = [
    { value: true, label: 'yes' },
    { value: false, label: 'no, they are off' },
  ];
  protected readonly fixedChoices: readonly Choice[] = [
    { value: false, label: 'may move them' },
    { value: true, label: 'leave them as they are' },
  ];
  protected readonly form = new EditForm<PickedRows<EstateRadio>, RadioText>({
    kept: pickedRows(this.rows, ({ deviceId, band }) => `${deviceId} ${band}`),
    idOf: ({ key }) => key,
    textOf: (picked) => textOf(picked?.rows ?? []),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly message = computed(() => this.form.other(['channel', 'width', 'power']));
  protected readonly said = computed(() => this.rows().some(({ said }) => said !== null));
  protected readonly bands = computed(() => new Set(this.rows().map(({ band }) => band)).size);
  protected readonly heading = computed(() => {
    const [first, ...more] = this.rows();
    if (!first) return 'No radio';
    return more.length === 0 ? `${first.name} ${first.band} GHz` : `${more.length + 1} radios`;
  });
  protected readonly note = computed(() => {
    const sites = [...new Set(this.rows().map(({ site }) => site))];
    if (this.rows().length < 2) return `at ${sites.join()}`;
    const which = sites.length > 3 ? counted(sites.length, 'site') : sites.join(', ');
    return `What is chosen here is given to all ${this.rows().length}, at ${which}.`;
  });
  protected readonly channels = computed((): Choice[] => [
    { value: null, label: 'as each finds best' },
    ...inAll(this.rows().map(({ may }) => may.channels)).map((value) => ({ value, label: `${value}` })),
  ]);
  protected readonly widths = computed((): Choice[] =>
    inAll(this.rows().map(({ may }) => may.widths)).map((value) => ({ value, label: `${value}` })),
  );
  protected readonly powerHint = computed(() => {
    const most = Math.min(...this.rows().map(({ may }) => may.power ?? Infinity));
    return Number.isFinite(most) ? `Up to ${most} at all of them; empty: the most each may` : '';
  });

  protected set(change: RadioEntry & Partial<RadioText>): Promise<void> {
    this.form.put(change);
    return this.make((entry) => ({ ...entry, ...change }));
  }

  protected setPower(typed: string): Promise<void> {
    this.form.put({ power: typed });
    return this.make((entry) => ({ ...entry, power: powerTyped(typed) }));
  }

  /** @param next is worked out in its turn, from what the edit before has made. */
  protected async make(next: (entry: RadioEntry | null) => RadioEntry | null): Promise<void> {
    await this.turns.take(() =>
      this.form.send(async () => {
        const wanted = this.rows().map(({ siteId, deviceId, band, said: from }): Operation => {
          return { type: 'radio.set', siteId, deviceId, band, from, to: next(from) };
        });
        if (wanted.length > 0) await this.store.edit(wanted);
        await this.again()();
      }),
    );
  }
}

/** What all lists have in common, in the order of the first. */
const inAll = (lists: readonly (readonly number[])[]): number[] => {
  const [first = [], ...others] = lists;
  const sets = [...new Set(others)].map((list) => new Set(list));
  return first.filter((each) => sets.every((set) => set.has(each)));
};

/** What radios have in common; where they differ it is said. */
function textOf(rows: readonly EstateRadio[]): RadioText {
  const common = (of: (row: EstateRadio) => unknown): unknown => inCommon(rows, of);
  const power = common(({ said }) => `${said?.power ?? ''}`);
  return {
    on: common(({ on }) => on),
    channel: common(({ said }) => said?.channel ?? null),
    width: common(({ width }) => width),
    power: typeof power === 'string' && power !== DIFFERS ? power : '',
    fixed: common(({ fixed }) => fixed),
  };
}
