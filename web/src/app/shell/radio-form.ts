import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { Width } from '@iron-lattice/core/radio';
import { bandSetting, type Operation, type RadioEntry } from '@iron-lattice/core/intent';
import { allowedBlock, allowedBlocks, allowedWidths, channelWords } from '@iron-lattice/core/regulation';
import { SessionStore } from '../session/session-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { EditForm } from './edit-form';
import { inCommon, pickedRows, powerTyped, type PickedRows } from './picked-rows';
import type { RadioRow } from './radio-rows';
import { SiteStore } from './site-store';
import { Turns } from './turns';

interface RadioText {
  readonly on: unknown;
  readonly channel: unknown;
  readonly width: unknown;
  readonly power: string;
  readonly fixed: unknown;
}

/** What is said of one radio, or of many at once; goes into the draft as it is chosen. */
@Component({
  selector: 'il-radio-form',
  imports: [MatButtonModule, ChoiceCell, TextCell],
  template: `
    <il-choice-cell
      label="Sends"
      [for]="prefix() + '-on'"
      [disabled]="!session.mayChange()"
      [options]="onChoices"
      [value]="text().on"
      (chosen)="set({ on: $event })"
    />
    <il-choice-cell
      label="Channel"
      [for]="prefix() + '-channel'"
      [hint]="channelHint()"
      [flaw]="problem()?.of('channel')"
      [disabled]="!session.mayChange() || bands().length > 1"
      [options]="channels()"
      [value]="text().channel"
      (chosen)="set({ channel: $event })"
    />
    <il-choice-cell
      label="Width, MHz"
      [for]="prefix() + '-width'"
      [hint]="widthHint()"
      [flaw]="problem()?.of('width')"
      [disabled]="!session.mayChange()"
      [options]="widths()"
      [value]="text().width"
      (chosen)="set({ width: $event })"
    />
    <il-text-cell
      label="Power, dBm EIRP"
      [for]="prefix() + '-power'"
      [hint]="powerHint()"
      [flaw]="problem()?.of('power')"
      [mono]="true"
      [readonly]="!session.mayChange()"
      [example]="powerUsual()"
      [value]="text().power"
      (done)="setPower($event)"
    />
    <il-choice-cell
      label="Plans of channels"
      [for]="prefix() + '-fixed'"
      [disabled]="!session.mayChange()"
      [options]="fixedChoices"
      [value]="text().fixed"
      (chosen)="set({ fixed: $event })"
    />
    @if (resets() && session.mayChange() && said()) {
      <div class="cell">
        <button mat-stroked-button type="button" (click)="forget()">As the band says again</button>
      </div>
    }
    @if (message(); as text) {
      <p class="cell full flaw" role="alert">{{ text }}</p>
    }
  `,
  styles: ':host { display: contents; } .cell button { margin-top: 16px; }',
})
export class RadioForm {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly rows = input.required<readonly RadioRow[]>();
  /** What the ids of its fields begin with. */
  readonly prefix = input('radio');
  /** Whether the button stands here that drops what is said; else whoever shows the form has it. */
  readonly resets = input(true);
  private readonly turns = new Turns();
  protected readonly onChoices: readonly Choice[] = [
    { value: true, label: 'yes' },
    { value: false, label: 'no, it is off' },
  ];
  protected readonly fixedChoices: readonly Choice[] = [
    { value: false, label: 'may move it' },
    { value: true, label: 'leave it as it is' },
  ];
  protected readonly bands = computed(() => [...new Set(this.rows().map(({ band }) => band))]);
  private readonly country = computed(() => this.store.site()?.country ?? '');
  protected readonly form = new EditForm<PickedRows<RadioRow>, RadioText>({
    kept: pickedRows(this.rows, ({ key }) => key),
    idOf: ({ key }) => key,
    textOf: (picked) => textOf(picked?.rows ?? []),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly message = computed(() => this.form.other(['channel', 'width', 'power']));
  protected readonly said = computed(() => this.rows().some((row) => this.entryOf(row) !== null));
  private readonly policy = computed(() => {
    const [site, [band]] = [this.store.site(), this.bands()];
    return site && band ? bandSetting(site, band) : null;
  });

  protected readonly channels = computed((): Choice[] => {
    const [[band], policy] = [this.bands(), this.policy()];
    if (!band || !policy) return [];
    const words = (duty: { readonly radar: boolean; readonly listenSeconds: number }): string =>
      duty.radar ? `, listens for radar ${duty.listenSeconds < 120 ? '60 s' : '10 min'} first` : '';
    const named = allowedBlocks(this.country(), band, 20)
      .filter(({ duty }) => policy.radar || !duty.radar)
      .map(({ centre, eirp, duty }) => ({
        value: centre,
        label: `${centre}: up to ${Math.floor(eirp)} dBm${words(duty)}`,
      }));
    const kept = this.text().channel;
    const strange = typeof kept === 'number' && !named.some(({ value }) => value === kept);
    return [
      { value: null, label: 'as it finds best' },
      ...named,
      ...(strange ? [{ value: kept, label: `${kept}: cannot be used here` }] : []),
    ];
  });
  protected readonly channelHint = computed(() => {
    const [[band, more], policy] = [this.bands(), this.policy()];
    if (!band || !policy) return '';
    if (more) return 'Radios of one band at a time';
    const [row] = this.rows();
    if (row?.hangsOn) return `It hangs on ${row.hangsOn} by this radio, and sends where that does`;
    const channels = policy.channels === 'legal' ? 'every legal channel' : channelWords(band, policy.channels);
    return `By itself it takes of ${channels}, never one shared with radar`;
  });
  protected readonly widths = computed((): Choice[] => {
    const most = Math.max(0, ...this.rows().map(({ device, band }) => widestOf(device, band)));
    const legal = new Set(this.bands().flatMap((band) => allowedWidths(this.country(), band)));
    return [...legal]
      .sort((a, b) => a - b)
      .filter((width) => width <= most)
      .map((width) => ({ value: width, label: `${width}` }));
  });
  protected readonly widthHint = computed(() => {
    const [row, ...more] = this.rows();
    if (!row || more.length > 0) return '';
    const { at, width, choices } = row.setting;
    const comes = at?.width ?? choices[0]?.width ?? width;
    if (comes < width) return `${comes} MHz there: no more fits beside channel ${at?.channel ?? ''}`;
    const block = at && at.width > 20 ? allowedBlock(this.country(), row.band, at.channel, at.width) : undefined;
    if (block) return `Takes channels ${channelWords(row.band, block.members)}`;
    return row.band === '2.4' ? 'Of 40 MHz only one fits beside others here' : '';
  });
  protected readonly powerUsual = computed(() => {
    const all = new Set(this.rows().map(({ setting }) => setting.mostEirp));
    return all.size === 1 ? `${[...all][0] ?? ''}` : 'the most there is';
  });
  protected readonly powerHint = computed(() => {
    const [row, ...more] = this.rows();
    const most = row?.setting.mostEirp ?? null;
    if (!row || more.length > 0 || most === null) return 'Empty: as much as law and hardware allow';
    return `Empty: ${most}, the most here`;
  });

  protected set(change: RadioEntry & Partial<RadioText>): Promise<void> {
    this.form.put(change);
    return this.make((entry) => ({ ...entry, ...change }));
  }

  protected setPower(typed: string): Promise<void> {
    this.form.put({ power: typed });
    return this.make((entry) => ({ ...entry, power: powerTyped(typed) }));
  }

  /** Takes another width. */
  take(width: Width): Promise<void> {
    return this.set({ width });
  }

  /** Drops what is said of them alone. */
  forget(): Promise<void> {
    return this.make(() => null);
  }

  private entryOf = ({ device, band }: RadioRow): RadioEntry | null =>
    this.store.site()?.radios?.[device.id]?.[band] ?? null;

  /** @param next is worked out in its turn, from what the edit before has made. */
  private async make(next: (entry: RadioEntry | null) => RadioEntry | null): Promise<void> {
    await this.turns.take(() =>
      this.form.send(async () => {
        const siteId = this.store.siteId()!;
        const wanted = this.rows().map((row): Operation => {
          const from = this.entryOf(row);
          return { type: 'radio.set', siteId, deviceId: row.device.id, band: row.band, from, to: next(from) };
        });
        if (wanted.length > 0) await this.store.edit(wanted);
      }),
    );
  }
}

const widestOf = (device: RadioRow['device'], band: RadioRow['band']): number =>
  sheetFor(device).radios.find((radio) => radio.band === band)?.width ?? 0;

/** What radios have in common; where they differ it is said. */
function textOf(rows: readonly RadioRow[]): RadioText {
  const common = (of: (row: RadioRow) => unknown): unknown => inCommon(rows, of);
  const power = common(({ setting }) => (setting.power === null ? '' : String(setting.power)));
  return {
    on: common(({ setting }) => setting.on),
    channel: common(({ setting }) => setting.channel),
    width: common(({ setting }) => setting.width),
    power: typeof power === 'string' ? power : '',
    fixed: common(({ setting }) => setting.fixed),
  };
}
