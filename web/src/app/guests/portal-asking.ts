import { Component, computed, input, output } from '@angular/core';
import { ASK_FIELDS, isAskedWay, type AskField } from '@iron-lattice/core/guests';
import type { Problem } from '../session/problem';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import type { Asked, PortalText } from './portal-text';

const FIELD_WORDS: Readonly<Record<AskField, string>> = {
  name: 'Asked for a name',
  company: 'Asked for a company',
  reason: 'Asked for a reason',
};
const CHECKS: readonly Choice[] = [
  { value: 'kept', label: 'users kept under Entry, and the directory' },
  { value: 'servers', label: 'the RADIUS servers of the site' },
];
const ASKED: readonly Choice[] = [
  { value: 'not', label: 'no' },
  { value: 'may', label: 'yes, may stay empty' },
  { value: 'must', label: 'yes, has to be said' },
];

/** What guests who say who they are are asked for, and who may say yes to them. */
@Component({
  selector: 'il-portal-asking',
  imports: [ChoiceCell, TextCell],
  template: `
    @if (asks()) {
      @for (field of fields; track field) {
        <il-choice-cell
          [label]="words[field]"
          [for]="'portal-asks-' + field"
          [options]="asked"
          [disabled]="readonly()"
          [value]="text().asks[field]"
          (chosen)="ask(field, $event)"
        />
      }
    }
    @if (coded()) {
      <il-text-cell
        label="Kinds of visit codes that are given often"
        for="portal-kinds"
        size="wide"
        [rows]="3"
        example="Day guest: 1 d, 2 devices"
        hint="A line each, offered where codes are made and at receptions; may stay empty"
        [flaw]="unread().kinds ?? problem()?.of('kinds')"
        [readonly]="readonly()"
        [value]="text().kinds"
        (typed)="put.emit({ kinds: $event })"
      />
    }
    @if (known()) {
      <il-choice-cell
        label="Who knows names and passwords"
        for="portal-users"
        [options]="checks"
        [disabled]="readonly()"
        [value]="text().users"
        (chosen)="put.emit({ users: $event })"
      />
    }
    @if (sends()) {
      <il-text-cell
        label="Let in before the code is given"
        for="portal-first"
        hint="Such as 10 min, once a day, to read the mail; empty: the code first"
        [flaw]="unread().first ?? problem()?.of('first')"
        [readonly]="readonly()"
        [value]="text().first"
        (typed)="put.emit({ first: $event })"
      />
    }
    @if (sponsored()) {
      <il-text-cell
        label="Who may say yes: mail domains"
        for="portal-domains"
        size="wide"
        [rows]="2"
        [mono]="true"
        example="skerrow.example"
        hint="A line each; guests write the address of whom they visit"
        [flaw]="problem()?.of('sponsors.domains')"
        [readonly]="readonly()"
        [value]="text().domains"
        (typed)="put.emit({ domains: $event })"
      />
      <il-text-cell
        label="Single addresses"
        for="portal-people"
        size="wide"
        [rows]="2"
        [mono]="true"
        hint="A line each"
        [flaw]="problem()?.of('sponsors.people')"
        [readonly]="readonly()"
        [value]="text().people"
        (typed)="put.emit({ people: $event })"
      />
      <il-text-cell
        label="Groups that guests choose by name"
        for="portal-groups"
        size="wide"
        [rows]="2"
        example="Harbour office: rin@skerrow.example, mel@skerrow.example"
        hint="A line each; all are asked, and the first answer counts"
        [flaw]="problem()?.of('sponsors.groups')"
        [readonly]="readonly()"
        [value]="text().groups"
        (typed)="put.emit({ groups: $event })"
      />
      <il-text-cell
        label="Who hears of everybody let in"
        for="portal-told"
        size="wide"
        [rows]="1"
        [mono]="true"
        hint="Mail addresses; may stay empty"
        [flaw]="problem()?.of('sponsors.told')"
        [readonly]="readonly()"
        [value]="text().told"
        (typed)="put.emit({ told: $event })"
      />
      <il-text-cell
        label="An answer is waited for"
        for="portal-within"
        hint="1 h, 30 min; then the link of the mail is over"
        [flaw]="unread().within ?? problem()?.of('sponsors.within')"
        [readonly]="readonly()"
        [value]="text().within"
        (typed)="put.emit({ within: $event })"
      />
    }
  `,
  styles: ':host { display: contents; }',
})
export class PortalAsking {
  readonly text = input.required<PortalText>();
  readonly problem = input.required<Problem | null>();
  /** What cannot be read yet, by field. */
  readonly unread = input.required<Partial<Record<keyof PortalText, string>>>();
  readonly readonly = input.required<boolean>();
  readonly put = output<Partial<PortalText>>();
  protected readonly fields = ASK_FIELDS;
  protected readonly words = FIELD_WORDS;
  protected readonly asked = ASKED;
  protected readonly checks = CHECKS;
  protected readonly coded = computed(() => this.text().ways.includes('code'));
  protected readonly known = computed(() => this.text().ways.includes('user'));
  protected readonly asks = computed(() => this.text().ways.some(isAskedWay));
  protected readonly sends = computed(() => this.text().ways.some((way) => way === 'mail' || way === 'phone'));
  protected readonly sponsored = computed(() => this.text().ways.includes('sponsor'));

  protected ask(field: AskField, asked: Asked): void {
    this.put.emit({ asks: { ...this.text().asks, [field]: asked } });
  }
}
