import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { beaconLoads, heaviest, sendingOf } from '@iron-lattice/core/assess';
import type { Band } from '@iron-lattice/core/hardware';
import { bandSetting, USUAL_BANDS, type BandEntry, type BandFields } from '@iron-lattice/core/intent';
import { basicRatesAt, type BasicRate } from '@iron-lattice/core/radio';
import { allowedBlocks, allowedWidths, channelWords, readChannels } from '@iron-lattice/core/regulation';
import { RANGE_DAYS, type BandRange } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { liveFetch } from '../shell/live-fetch';
import { powerTyped } from '../shell/picked-rows';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { AirStore } from './air-store';

interface Said {
  readonly band: Band;
  readonly fields: BandFields;
}
interface BandText {
  readonly on: boolean;
  readonly width: number;
  readonly channels: string;
  readonly radar: boolean;
  readonly least: string;
  readonly most: string;
  readonly refuge: number | null;
  readonly slowest: BasicRate;
}

/** What a site says of a band, once for all its radios. */
@Component({
  selector: 'il-band-sheet',
  imports: [MatButtonModule, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet [heading]="band() + ' GHz'" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && differs()) {
        <button actions mat-stroked-button type="button" (click)="make(null)">As usual again</button>
      }
      <div class="cells">
        <il-choice-cell
          label="Radios send"
          for="band-on"
          [disabled]="!session.mayChange()"
          [options]="onChoices"
          [value]="text().on"
          (chosen)="set({ on: $event })"
        />
        <il-choice-cell
          label="Widest, MHz"
          for="band-width"
          [hint]="widthHint()"
          [flaw]="problem()?.of('width')"
          [disabled]="!session.mayChange()"
          [options]="widths()"
          [value]="text().width"
          (chosen)="set({ width: $event })"
        />
        <il-text-cell
          label="Channels they may use"
          for="band-channels"
          size="wide"
          [mono]="true"
          [hint]="legal()"
          [flaw]="channelFlaw()"
          [readonly]="!session.mayChange()"
          example="every legal one"
          [value]="text().channels"
          (typed)="form.put({ channels: $event })"
          (done)="setChannels($event)"
        />
        <il-text-cell
          label="Power from, dBm"
          for="band-least"
          hint="Plans give a radio no less"
          [mono]="true"
          [flaw]="problem()?.of('least')"
          [readonly]="!session.mayChange()"
          [value]="text().least"
          (done)="setPower('least', $event)"
        />
        <il-text-cell
          label="Power to, dBm"
          for="band-most"
          hint="Empty: as law and hardware allow"
          [mono]="true"
          [flaw]="problem()?.of('most')"
          [readonly]="!session.mayChange()"
          [value]="text().most"
          (done)="setPower('most', $event)"
        />
        <il-choice-cell
          label="Slowest rate, Mb/s"
          for="band-slowest"
          [hint]="slowestHint()"
          [flaw]="problem()?.of('slowest')"
          [disabled]="!session.mayChange()"
          [options]="rates()"
          [value]="text().slowest"
          (chosen)="set({ slowest: $event })"
        />
        @if (band() === '5') {
          <il-choice-cell
            label="Channels shared with radar"
            for="band-radar"
            hint="They are listened to first: 60 s, weather radar 10 min"
            [flaw]="problem()?.of('radar')"
            [disabled]="!session.mayChange()"
            [options]="radarChoices"
            [value]="text().radar"
            (chosen)="set({ radar: $event })"
          />
          @if (text().radar) {
            <il-choice-cell
              label="Where radios go when radar is heard"
              for="band-refuge"
              [flaw]="problem()?.of('refuge')"
              [disabled]="!session.mayChange()"
              [options]="refuges()"
              [value]="text().refuge"
              (chosen)="set({ refuge: $event })"
            />
          }
        }
        @if (message(); as text) {
          <p class="cell full flaw" role="alert">{{ text }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class BandSheet {
  private readonly store = inject(SiteStore);
  private readonly air = inject(AirStore, { optional: true });
  private readonly http = inject(HttpClient);
  protected readonly session = inject(SessionStore);
  readonly band = input.required<Band>();
  readonly closed = output<void>();
  private readonly turns = new Turns();
  protected readonly onChoices: readonly Choice[] = [
    { value: true, label: 'yes' },
    { value: false, label: 'no, all are off' },
  ];
  protected readonly radarChoices: readonly Choice[] = [
    { value: false, label: 'are not used' },
    { value: true, label: 'may be used' },
  ];
  private readonly country = computed(() => this.store.site()?.country ?? '');
  protected readonly form = new EditForm<Said, BandText>({
    kept: () => {
      const site = this.store.site();
      return site ? { band: this.band(), fields: bandSetting(site, this.band()) } : null;
    },
    idOf: ({ band }) => band,
    textOf: (said) => textOf(said ?? { band: '5', fields: USUAL_BANDS['5'] }),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly differs = computed(() => this.store.site()?.bands?.[this.band()] !== undefined);
  protected readonly note = computed(() => {
    const name = this.store.site()?.name ?? 'this site';
    return `Said once for all ${this.band()} GHz radios of ${name}; a radio may differ in single fields`;
  });
  protected readonly message = computed(() =>
    this.form.other(['width', 'channels', 'least', 'most', 'radar', 'refuge', 'slowest']),
  );
  protected readonly channelFlaw = computed(() => {
    const typed = this.text().channels;
    if (readChannels(this.band(), typed) === null) return `“${typed}” is no list of channels, such as 36, 44–52.`;
    return this.problem()?.of('channels');
  });
  protected readonly widths = computed((): Choice[] =>
    allowedWidths(this.country(), this.band()).map((width) => ({ value: width, label: `${width}` })),
  );
  protected readonly widthHint = computed(() =>
    this.band() === '2.4' ? 'Starts at 20: of 40 MHz only one fits here, over all its neighbours' : '',
  );
  protected readonly legal = computed(() => {
    const blocks = allowedBlocks(this.country(), this.band(), 20);
    return `Empty: every legal one, ${channelWords(
      this.band(),
      blocks.filter(({ shortRange }) => !shortRange).map(({ centre }) => centre),
    )}`;
  });
  protected readonly refuges = computed((): Choice[] => [
    { value: null, label: 'the first that is free of radar' },
    ...allowedBlocks(this.country(), this.band(), 20)
      .filter(({ duty }) => !duty.radar)
      .map(({ centre }) => ({ value: centre, label: `${centre}` })),
  ]);

  /** Clients of the last days, by how near they were. */
  private readonly range = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<BandRange[]>(`/api/sites/${id}/air-range`)),
    when: () => false,
  });
  private readonly ranges = computed(() => this.range.value()?.find(({ band }) => band === this.band()));
  /** Rates with what beacons would take at each and what that frees, and whom of the last days it would not take in. */
  protected readonly rates = computed((): Choice[] => {
    const now = this.beaconsAt(this.text().slowest);
    return basicRatesAt(this.band()).map((value) => {
      const share = this.beaconsAt(value);
      if (share === null || now === null) return { value, label: `${value}` };
      const freed = now - share;
      const more =
        Math.abs(freed) < 0.0005 ? '' : freed > 0 ? `, frees ${percent(freed)}` : `, takes ${percent(-freed)} more`;
      return { value, label: `${value}: beacons ${percent(share)}${more}${this.leftOut(value)}` };
    });
  });
  protected readonly slowestHint = computed(() => {
    const [range, rate] = [this.ranges(), this.text().slowest];
    const why =
      rate < 6 ? 'Below 6 only devices of 802.11b need it.' : 'Who is too far to hear beacons at it is not taken in.';
    const at = range?.rates.find((each) => each.rate === rate);
    if (!range || !at) return why;
    const words = [
      ...(at.never > 0 ? [`${at.never} never near enough`] : []),
      ...(at.sometimes > 0 ? [`${at.sometimes} only at times`] : []),
    ];
    return `${why} Of ${counted(range.clients, 'client')} in ${RANGE_DAYS} days ${words.join(', ') || 'all are near enough'}.`;
  });

  /** Share of the air at the busiest radio; null: nothing is sent. */
  private beaconsAt(rate: BasicRate): number | null {
    const data = this.store.data();
    if (!data) return null;
    const sent = sendingOf(this.store.ssidsHere());
    const loads = beaconLoads(data.site, data.roster, sent, this.air?.losses() ?? [], { [this.band()]: rate });
    return heaviest(loads).find(({ band }) => band === this.band())?.share ?? null;
  }

  private leftOut(rate: BasicRate): string {
    const range = this.ranges();
    const at = range?.rates.find((each) => each.rate === rate);
    if (!range || !at || at.never + at.sometimes === 0) return '';
    return `, leaves out ${at.never} of ${counted(range.clients, 'client')}${at.sometimes > 0 ? ` and ${at.sometimes} at times` : ''}`;
  }

  protected set(change: Partial<BandText> & BandEntry): Promise<void> {
    this.form.put(change);
    return this.change(change);
  }

  protected setChannels(typed: string): Promise<void> {
    this.form.put({ channels: typed });
    const channels = readChannels(this.band(), typed);
    return channels === null
      ? Promise.resolve()
      : this.change({ channels: channels.length === 0 ? 'legal' : channels });
  }

  protected setPower(field: 'least' | 'most', typed: string): Promise<void> {
    this.form.put({ [field]: typed });
    const usual = field === 'least' ? USUAL_BANDS[this.band()].least : null;
    return this.change({ [field]: powerTyped(typed) ?? usual });
  }

  private change(change: BandEntry): Promise<void> {
    return this.make((now) => ({ ...now, ...change }));
  }

  protected async make(next: ((now: BandEntry | null) => BandEntry) | null): Promise<void> {
    await this.turns.take(() =>
      this.form.send(async () => {
        const site = this.store.site()!;
        const from = site.bands?.[this.band()] ?? null;
        const to = next ? next(from) : null;
        await this.store.edit([{ type: 'radio.band', siteId: site.id, band: this.band(), from, to }]);
      }),
    );
  }
}

const textOf = ({ band, fields }: Said): BandText => ({
  on: fields.on,
  width: fields.width,
  channels: fields.channels === 'legal' ? '' : channelWords(band, fields.channels),
  radar: fields.radar,
  least: `${fields.least}`,
  most: fields.most === null ? '' : `${fields.most}`,
  refuge: fields.refuge,
  slowest: fields.slowest,
});

const percent = (share: number): string => `${(share * 100).toFixed(1)} %`;
