import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, output } from '@angular/core';
import { BANDS, type Band } from '@iron-lattice/core/hardware';
import type { PlanRecurrence, PlanRecurrenceView } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';

interface RecurrenceText {
  readonly on: boolean;
  readonly bands: readonly Band[];
  readonly leastGain: string;
  readonly mostMoved: string;
}

/** A plan of channels that comes again each week: when it may be taken, and what came of it. */
@Component({
  selector: 'il-recurrence-sheet',
  imports: [Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet
      heading="The plan, each week"
      note="In the site’s update window only, never beside a rollout here; a revision like any other, with its checks"
      (closed)="closed.emit()"
    >
      <div class="cells">
        <il-choice-cell
          label="Work it out each week"
          for="again-on"
          [disabled]="fixed()"
          [options]="onChoices"
          [value]="text().on"
          (chosen)="put({ on: $event })"
        />
        <il-choice-cell
          label="Bands"
          for="again-bands"
          [several]="true"
          [disabled]="fixed()"
          [options]="bands"
          [value]="text().bands"
          (chosen)="put({ bands: $event })"
        />
        <il-text-cell
          label="Take it from a gain of, %"
          for="again-gain"
          hint="How much less radios are in each other’s way"
          [mono]="true"
          [readonly]="fixed()"
          [flaw]="gainFlaw()"
          [value]="text().leastGain"
          (done)="put({ leastGain: $event })"
        />
        <il-text-cell
          label="Radios moved at most"
          for="again-moved"
          hint="With more it is not taken, and said so"
          [mono]="true"
          [readonly]="fixed()"
          [flaw]="movedFlaw()"
          [value]="text().mostMoved"
          (done)="put({ mostMoved: $event })"
        />
        <il-cell label="The last time" size="full">
          <div class="value">
            @if (kept()?.lastAt; as at) {
              <span class="soft">{{ when(at) }}</span> {{ kept()?.last || 'It is being worked out.' }}
            } @else {
              <span class="soft">Not yet{{ kept()?.by ? '; asked for by ' + kept()?.by : '' }}.</span>
            }
          </div>
        </il-cell>
        @if (form.problem(); as problem) {
          <p class="cell full flaw" role="alert">{{ problem.message }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class RecurrenceSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly session = inject(SessionStore);
  readonly closed = output<void>();
  protected readonly onChoices: readonly Choice[] = [
    { value: false, label: 'no' },
    { value: true, label: 'yes' },
  ];
  protected readonly bands: readonly Choice[] = BANDS.map((band) => ({ value: band, label: `${band} GHz` }));
  private readonly url = computed(() => `/api/sites/${this.store.siteId()}/plan-recurrence`);
  private readonly fetched = liveFetch({
    of: () => this.url(),
    fetch: (url) => firstValueFrom(this.http.get<PlanRecurrenceView>(url)),
    when: (event) => event.type === 'air' && event.what === 'plan' && event.siteId === this.store.siteId(),
  });
  protected readonly kept = this.fetched.value;
  protected readonly form = new EditForm<PlanRecurrenceView, RecurrenceText>({
    kept: this.kept,
    idOf: () => 'one',
    textOf: (kept) => ({
      on: kept?.on ?? false,
      bands: kept?.bands ?? [],
      leastGain: kept ? `${Math.round(kept.leastGain * 100)}` : '',
      mostMoved: kept ? `${kept.mostMoved}` : '',
    }),
  });
  protected readonly text = this.form.text;
  protected readonly fixed = computed(() => !this.session.mayChange() || this.kept() === null);
  protected readonly gainFlaw = computed(() =>
    isWhole(this.text().leastGain, 1, 100) || this.kept() === null ? '' : 'From 1 to 100 %.',
  );
  protected readonly movedFlaw = computed(() =>
    isWhole(this.text().mostMoved, 1, 500) || this.kept() === null ? '' : 'From 1 to 500 radios.',
  );
  protected when = (at: string): string =>
    new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

  protected async put(change: Partial<RecurrenceText>): Promise<void> {
    this.form.put(change);
    const { on, bands, leastGain, mostMoved } = this.text();
    if (this.gainFlaw() || this.movedFlaw() || bands.length === 0) return;
    const wanted: PlanRecurrence = { on, bands, leastGain: Number(leastGain) / 100, mostMoved: Number(mostMoved) };
    await this.form.send(async () => {
      this.fetched.put(await firstValueFrom(this.http.patch<PlanRecurrenceView>(this.url(), wanted)));
    });
  }
}

const isWhole = (text: string, least: number, most: number): boolean =>
  /^\d+$/.test(text.trim()) && Number(text) >= least && Number(text) <= most;
