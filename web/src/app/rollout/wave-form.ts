import { Component, computed, input, model } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { WaveChecks, WavePlan } from '@iron-lattice/core/rollout';
import { readTimes } from '@iron-lattice/core/rules';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';

/** What is proposed to whoever goes in waves. */
export const PROPOSED_PLAN: WavePlan = {
  canary: 'site',
  by: 'share',
  shares: [10, 50],
  waitSeconds: 120,
  checks: { inStep: true, clients: 80, guarantees: true, suites: false },
  onFailure: 'pause',
  forSilent: false,
};

const CANARIES: readonly Choice[] = [
  { value: 'none', label: 'nothing' },
  { value: 'device', label: 'one device' },
  { value: 'kinds', label: 'one of each kind' },
  { value: 'site', label: 'one site' },
];
const WAYS: readonly Choice[] = [
  { value: 'together', label: 'all at once' },
  { value: 'share', label: 'by share of the sites' },
  { value: 'tag', label: 'by tag' },
  { value: 'site', label: 'site by site' },
];
const WAITS: readonly Choice[] = [
  { value: 0, label: 'no wait' },
  { value: 60, label: '1 minute' },
  { value: 120, label: '2 minutes' },
  { value: 600, label: '10 minutes' },
  { value: 3600, label: '1 hour' },
  { value: 86_400, label: '1 day' },
];
const CLIENTS: readonly Choice[] = [
  { value: null, label: 'not asked' },
  { value: 50, label: '50 %' },
  { value: 80, label: '80 %' },
  { value: 90, label: '90 %' },
  { value: 100, label: 'all' },
];
const FAILURES: readonly Choice[] = [
  { value: 'pause', label: 'pause there' },
  { value: 'go-back', label: 'go back with all of it' },
];

/** In which waves a draft is rolled out. */
@Component({
  selector: 'il-wave-form',
  imports: [FormsModule, MatCheckboxModule, Cell, ChoiceCell, TextCell],
  template: `
    <div class="cells" role="group" aria-label="Waves">
      <il-choice-cell
        label="Tried first"
        for="wave-canary"
        [options]="canaries"
        [value]="plan().canary"
        (chosen)="set({ canary: $event })"
      />
      @if (plan().canary !== 'none') {
        <il-choice-cell
          label="At"
          for="wave-site"
          [options]="places()"
          [value]="plan().canarySiteId ?? ''"
          (chosen)="set({ canarySiteId: $event === '' ? undefined : $event })"
        />
      }
      <il-choice-cell
        label="Then the rest"
        for="wave-by"
        [options]="ways"
        [value]="plan().by"
        (chosen)="set({ by: $event })"
      />
      @if (plan().by === 'share') {
        <il-text-cell
          label="To so many percent of the sites"
          for="wave-shares"
          example="10, 50"
          [flaw]="flaw()"
          [value]="shares"
          (typed)="type($event)"
        />
      }
      <il-text-cell
        label="Only in these hours, by each site’s clock"
        for="wave-hours"
        example="02:00-04:00, else at any time"
        [flaw]="hoursFlaw()"
        [value]="hours"
        (typed)="typeHours($event)"
      />
      <il-choice-cell
        label="Between waves, wait"
        for="wave-wait"
        [options]="waits"
        [value]="plan().waitSeconds"
        (chosen)="set({ waitSeconds: $event })"
      />
      <il-cell label="Then these must hold" size="wide">
        <div class="checks">
          <mat-checkbox [ngModel]="plan().checks.inStep" (ngModelChange)="check({ inStep: $event })"
            >devices in step</mat-checkbox
          >
          <mat-checkbox [ngModel]="plan().checks.guarantees" (ngModelChange)="check({ guarantees: $event })"
            >guarantees</mat-checkbox
          >
          <mat-checkbox [ngModel]="plan().checks.suites" (ngModelChange)="check({ suites: $event })"
            >suites kept on the Bench</mat-checkbox
          >
        </div>
      </il-cell>
      <il-choice-cell
        label="Clients back, of those before"
        for="wave-clients"
        [options]="clients"
        [value]="plan().checks.clients"
        (chosen)="check({ clients: $event })"
      />
      <il-choice-cell
        label="What fails makes it"
        for="wave-failure"
        [options]="failures"
        [value]="plan().onFailure"
        (chosen)="set({ onFailure: $event })"
      />
      <il-cell label="Silent devices">
        <mat-checkbox [ngModel]="plan().forSilent" (ngModelChange)="set({ forSilent: $event })"
          >their wave waits for them</mat-checkbox
        >
      </il-cell>
    </div>
  `,
  styles: `
    .checks {
      display: flex;
      flex-wrap: wrap;
      gap: 0 14px;
    }
  `,
})
export class WaveForm {
  readonly plan = model.required<WavePlan>();
  /** Sites that are told something. */
  readonly sites = input.required<readonly { readonly siteId: string; readonly name: string }[]>();
  protected readonly canaries = CANARIES;
  protected readonly ways = WAYS;
  protected readonly waits = WAITS;
  protected readonly clients = CLIENTS;
  protected readonly failures = FAILURES;
  protected readonly places = computed((): readonly Choice[] => [
    { value: '', label: 'where fewest clients are' },
    ...this.sites().map(({ siteId, name }) => ({ value: siteId, label: name })),
  ]);
  /** As typed; what is wrong with it keeps the last one that was right. */
  protected shares = (PROPOSED_PLAN.shares ?? []).join(', ');
  protected readonly flaw = computed(() =>
    this.plan().by === 'share' && this.plan().shares === undefined
      ? 'Give growing percentages below 100, such as 10, 50.'
      : '',
  );

  protected hours = '';
  protected readonly hoursFlaw = computed(() => {
    const { within } = this.plan();
    return within === undefined || (readTimes(within) ?? []).length > 0
      ? ''
      : 'Give hours such as 02:00-04:00, or Mon-Fri 22:00-05:00.';
  });

  protected typeHours(text: string): void {
    this.hours = text;
    const { within: _before, ...rest } = this.plan();
    this.plan.set(text.trim() === '' ? rest : { ...rest, within: text.trim() });
  }

  protected set(change: Partial<WavePlan>): void {
    const { canarySiteId, ...rest } = { ...this.plan(), ...change };
    this.plan.set(canarySiteId === undefined || rest.canary === 'none' ? rest : { ...rest, canarySiteId });
  }

  protected check(change: Partial<WaveChecks>): void {
    this.set({ checks: { ...this.plan().checks, ...change } });
  }

  protected type(text: string): void {
    this.shares = text;
    const { shares: _before, ...rest } = this.plan();
    const shares = sharesIn(text);
    this.plan.set(shares ? { ...rest, shares } : rest);
  }
}

/** Growing percentages below 100 in a text; undefined when there is anything else in it. */
export function sharesIn(text: string): readonly number[] | undefined {
  const numbers = text
    .split(/[\s,;%]+/)
    .filter((word) => word !== '')
    .map(Number);
  const good = numbers.every((each, i) => Number.isInteger(each) && each > (numbers[i - 1] ?? 0) && each < 100);
  return good && numbers.length > 0 && numbers.length <= 20 ? numbers : undefined;
}
