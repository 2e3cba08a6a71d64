import { DatePipe } from '@angular/common';
import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { Finding } from '@iron-lattice/core/assess';
import { ruleName, type PolicyRow } from '@iron-lattice/core/rollout';
import { SessionStore } from '../session/session-store';
import { AtSites } from '../shell/at-sites';
import { EditForm } from '../shell/edit-form';
import { Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { TrafficCell } from '../shell/traffic-cell';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { fieldsOf, NEW_RULE, OWN, textOf, type RuleText } from './rule-text-form';
import type { RuleBookName } from './rules-api';
import { RulesFacts } from './rules-facts';
import { TextCell } from '../ui/text-cell';
import { anewFor } from '../ui/anew-for';

/** Where a rule takes effect, by its places. */
const WHERE: Readonly<Record<string, string>> = {
  gateway: 'At the gateway, which remembers what it let through: answers pass by themselves.',
  switches: 'At every switch. Switches judge each packet by itself, answers too.',
  aps: 'At the APs, for the clients it speaks of. APs judge each packet by itself, answers too.',
  'switches,aps':
    'At switches and APs, since it does not pass the gateway. They judge each packet by itself, answers too.',
};

/** A rule: one that there is, whose edits go to the draft as they are made, or one that is to be added. */
@Component({
  selector: 'il-rule-sheet',
  imports: [DatePipe, MatButtonModule, MatCheckboxModule, AtSites, Cell, ChoiceCell, TrafficCell, Sheet, TextCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="row() === null" (closed)="closed.emit()">
      @if (row() && editable()) {
        <ng-container ngProjectAs="[actions]">
          <button mat-button (click)="moved.emit(-1)">Move up</button>
          <button mat-button (click)="moved.emit(1)">Move down</button>
          <button mat-button (click)="removed.emit()">Take out</button>
        </ng-container>
      }
      @if (row() === null) {
        <button actions mat-flat-button [disabled]="form.busy()" (click)="add()">Add the rule</button>
      }
      <div class="cells">
        @let typed = text();
        <il-choice-cell
          label="Verdict"
          for="rule-verdict"
          [options]="verdicts"
          [value]="typed.verdict"
          [disabled]="!editable()"
          (chosen)="set({ verdict: $event })"
        />
        @if (row() === null) {
          <il-choice-cell
            label="Rulebook"
            for="rule-book"
            [options]="books()"
            [value]="book()"
            (chosen)="book.set($event)"
          />
        }
        <il-traffic-cell
          of="ends"
          label="From"
          for="rule-from"
          [value]="typed.from"
          [readonly]="!editable()"
          [flaw]="problem()?.of('from')"
          (typed)="set({ from: $event })"
        />
        <il-traffic-cell
          of="ends"
          label="To"
          for="rule-to"
          [value]="typed.to"
          [readonly]="!editable()"
          [flaw]="problem()?.of('to')"
          (typed)="set({ to: $event })"
        />
        <il-traffic-cell
          of="services"
          label="Services"
          for="rule-services"
          [value]="typed.services"
          [readonly]="!editable()"
          [flaw]="flaws().services || problem()?.of('services') || problem()?.of('ports')"
          (typed)="set({ services: $event })"
        />
        <il-choice-cell
          label="In force"
          for="rule-hours"
          hint="By the site’s clock. Hours are said under Wireless, Hours"
          [options]="hours()"
          [value]="typed.hours"
          [disabled]="!editable()"
          [flaw]="problem()?.of('hours')"
          (chosen)="at($event)"
        />
        @if (typed.hours === own) {
          <il-text-cell
            label="Times of its own"
            for="rule-times"
            hint="Mon-Fri 08:00-18:00; Sat 10:00-14:00"
            [flaw]="flaws().times || problem()?.of('times')"
            [mono]="true"
            [readonly]="!editable()"
            [value]="typed.times"
            (done)="set({ hours: own, times: $event })"
          />
        }
        <il-choice-cell
          label="Takes effect"
          for="rule-at"
          [options]="places"
          [value]="typed.at"
          [disabled]="!editable()"
          [flaw]="problem()?.of('at')"
          (chosen)="set({ at: $event })"
        />
        <il-text-cell
          label="What it is for"
          for="rule-comment"
          [readonly]="!editable()"
          [value]="typed.comment"
          (done)="set({ comment: $event })"
        />
        <il-cell label="Besides" [flaw]="other()">
          <mat-checkbox [disabled]="!editable()" [checked]="typed.log" (change)="set({ log: $event.checked })"
            >Note each packet it decides</mat-checkbox
          >
          @if (row()) {
            <mat-checkbox [disabled]="!editable()" [checked]="!typed.off" (change)="set({ off: !$event.checked })"
              >On</mat-checkbox
            >
          }
        </il-cell>
        @if (shared.atEstate()) {
          @if (row(); as row) {
            <il-at-sites kind="rule" stage="rules" [id]="row.rule.id" />
          }
        } @else if (row(); as row) {
          <il-cell label="Where it takes effect" size="wide">
            <p class="value">{{ where() }}</p>
            @for (finding of findings(); track finding.key) {
              <p class="finding">
                <b>{{ finding.message }}.</b> {{ finding.reason }}
                @if (finding.mend && session.mayChange()) {
                  <button mat-stroked-button class="mend" (click)="store.mend(finding.mend)">
                    Mend: {{ finding.mend.label }}
                  </button>
                }
              </p>
            }
            @if (facts.hits().get(row.rule.id); as hits) {
              <p class="hint">
                {{ hits.packets.toLocaleString('en') }} decided since {{ hits.since | date: 'd MMM y' }}
                @if (hits.lastAt) {
                  , last {{ hits.lastAt | date: 'd MMM y, HH:mm' }}
                }
              </p>
              @if (row.rule.log || hits.notes.length > 0) {
                <ul class="notes" aria-label="Packets it noted">
                  @for (note of hits.notes; track $index) {
                    <li>
                      <span class="mono">{{ note.at | date: 'd MMM, HH:mm:ss' }} {{ note.packet }}</span
                      >&ngsp;
                      <span class="soft">{{ note.passed ? 'passed' : 'stopped' }} at {{ note.device }}</span>
                    </li>
                  } @empty {
                    <li class="soft">No packet noted yet. Devices note them once this is rolled out.</li>
                  }
                </ul>
              }
            }
          </il-cell>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    mat-checkbox {
      display: block;
    }
    .notes {
      list-style: none;
      margin: 4px 0 0;
      padding: 0;
    }
    .finding {
      margin-top: 4px;
    }
  `,
})
export class RuleSheet {
  protected readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  protected readonly facts = inject(RulesFacts);
  /** Null: a new one. */
  readonly row = input.required<PolicyRow | null>();
  /** Id of the rule that a new one comes behind, and its book; null: the last of the site's. */
  readonly after = input<PolicyRow | null>(null);
  readonly closed = output<void>();
  readonly added = output<string>();
  readonly moved = output<-1 | 1>();
  readonly removed = output<void>();

  protected readonly verdicts = [
    { value: 'allow', label: 'Allow' },
    { value: 'deny', label: 'Deny' },
  ];
  protected readonly own = OWN;
  protected readonly hours = computed((): readonly Choice[] => [
    ...this.shared.hoursChoices().map(({ value, label }) => ({ value: value ?? '', label })),
    { value: OWN, label: 'at times of its own' },
  ]);
  protected readonly places = [
    { value: '', label: 'Where it can' },
    { value: 'gateway', label: 'At the gateway' },
    { value: 'switches', label: 'At switches' },
    { value: 'aps', label: 'At APs' },
  ];
  protected readonly books = computed(() => [
    ...(this.shared.atEstate() ? [] : [{ value: 'site', label: 'This site' }]),
    { value: 'before', label: 'Every site, before its own' },
    { value: 'after', label: 'Every site, after its own' },
  ]);
  protected readonly book = anewFor(
    () => this.after()?.book,
    (): RuleBookName => {
      const book = this.after()?.book;
      if (book === 'before' || book === 'after') return book;
      return this.shared.atEstate() ? 'before' : 'site';
    },
  );
  /** What is typed; of a rule that there is, as the draft has it until something refused stays typed. */
  protected readonly form = new EditForm<PolicyRow, RuleText>({
    kept: () => this.row(),
    idOf: ({ rule }) => rule.id,
    textOf: (row) => (row ? textOf(row.rule) : NEW_RULE),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly flaws = computed(() => fieldsOf(this.text(), this.facts.known()).flaws);
  protected readonly editable = computed(() => {
    const row = this.row();
    return this.session.mayChange() && (row === null || this.facts.bookOf(row) !== null);
  });
  protected readonly heading = computed(() => {
    const row = this.row();
    return row ? ruleName(row.rule) : 'New rule';
  });
  protected readonly note = computed(() => {
    const row = this.row();
    if (!row) return 'The first rule that matches a packet decides it.';
    return {
      site: 'A rule of this site',
      before: 'A rule of every site, before its own',
      after: 'A rule of every site, after its own',
      isolation: 'Follows from the isolation of a segment, which is edited in the Lattice, or of an SSID',
      published: 'What is published makes it: edit it under Paths',
      always: 'Every site has it: what begins outside is let in by nobody',
    }[row.book];
  });
  protected readonly where = computed(() => {
    const row = this.row();
    if (!row?.applies) return row?.rule.off ? 'It is off.' : 'Nowhere here.';
    return WHERE[row.places.join()] ?? 'Nowhere here.';
  });
  protected readonly findings = computed((): readonly Finding[] =>
    (this.store.consequences()?.findings ?? []).filter(
      ({ place }) => place.kind === 'rule' && place.id === this.row()?.rule.id,
    ),
  );
  protected readonly other = computed(() => this.form.other(['from', 'to', 'services', 'ports', 'times', 'hours']));

  /** Hours, or always; times of its own are given once they are typed. */
  protected at(hours: string): void {
    if (hours === OWN) this.form.put({ hours });
    else this.set({ hours, times: '' });
  }

  protected set(change: Partial<RuleText>): void {
    this.form.put(change);
    const row = this.row();
    if (row) void this.save(row, Object.keys(change) as (keyof RuleText)[]);
  }

  protected async add(): Promise<void> {
    const { fields, flaws } = fieldsOf(this.text(), this.facts.known());
    if (Object.keys(flaws).length > 0) return;
    const id = crypto.randomUUID();
    const [book, after] = [this.book(), this.after()];
    const rows = this.facts.rows().filter((row) => row.book === book);
    const behind = after?.book === book ? after.rule.id : (rows.at(-1)?.rule.id ?? null);
    const of = book === 'site' ? { siteId: this.store.siteId()! } : { book };
    const done = await this.form.send(() =>
      this.store.edit([{ type: 'rule.add', rules: [{ id, ...fields }], behind, ...of }]),
    );
    if (!done) return this.unnumber();
    this.form.reset();
    this.added.emit(id);
  }

  /** Flaws of a rule that is added name it by number; here there is one alone. */
  private unnumber(): void {
    this.problem.update((problem) => {
      if (!problem) return null;
      const flaws = problem.flaws.map((flaw) => ({ ...flaw, field: flaw.field?.replace(/^rules\.0\./, '') ?? '' }));
      return new Problem(problem.code, problem.message, flaws);
    });
  }

  private async save(row: PolicyRow, keys: readonly (keyof RuleText)[]): Promise<void> {
    const of = this.facts.bookOf(row);
    const { fields, flaws } = fieldsOf(this.text(), this.facts.known());
    if (!of || keys.some((key) => flaws[key])) return;
    const picked = (from: object): object =>
      Object.fromEntries(keys.map((key) => [key, (from as Record<string, unknown>)[key] ?? null]));
    await this.form.send(() =>
      this.store.edit([{ type: 'rule.set', ruleId: row.rule.id, from: picked(row.rule), to: picked(fields), ...of }]),
    );
  }
}
