import { Component, computed, inject, output, signal } from '@angular/core';
import { RULE_COLUMNS, type RuleListPreview } from '@iron-lattice/core/intent';
import type { ListWays } from '../shell/list-body';
import { ListSheet } from '../shell/list-sheet';
import { ListTaking } from '../shell/list-taking';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell } from '../ui/choice-cell';
import type { PreviewColumn } from '../ui/list-preview';
import { RulesApi, type RuleBookName } from './rules-api';

/** Rules from a list, dropped or pasted: every row is looked at before any becomes an edit. */
@Component({
  selector: 'il-rule-list-sheet',
  imports: [ChoiceCell, ListSheet],
  template: `
    <il-list-sheet
      heading="Rules from a list"
      note="Good rows come behind the last rule, in their order."
      [taking]="taking"
      [columns]="columns"
      [ways]="ways()"
      (closed)="closed.emit()"
    >
      <il-choice-cell
        label="Rulebook"
        for="rule-list-book"
        [options]="books"
        [value]="book()"
        (chosen)="book.set($event)"
      />
    </il-list-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class RuleListSheet {
  private readonly store = inject(SiteStore);
  private readonly api = inject(RulesApi);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = RULE_COLUMNS.map(({ key, headings }) => ({
    key,
    title: headings[0]!,
  }));
  protected readonly books = [
    { value: 'site', label: 'This site' },
    { value: 'before', label: 'Every site, before its own' },
    { value: 'after', label: 'Every site, after its own' },
  ];
  protected readonly book = signal<RuleBookName>('site');
  protected readonly ways = computed((): ListWays => ({
    label: 'Or CSV or XLSX with verdict, from, to, services',
    hint: 'Also: times, log, off, comment',
    sample: { href: `${this.api.base}/rules/csv`, label: 'This site’s rules as CSV, to begin with' },
    typed: {
      label: 'Paste rows',
      example: 'allow,segment Crew,internet,tcp 443\ndeny,segment Cameras,internet',
    },
  }));
  protected readonly taking = new ListTaking<RuleListPreview>(
    {
      look: (file) => this.api.look(this.book(), file),
      take: ({ operations }) => this.store.edit(operations),
      offer: ({ operations }, { bad }) => {
        if (operations.length === 0) return null;
        return bad > 0 ? 'Put the good rows into the draft' : 'Put into the draft';
      },
      summary: (_seen, { good, bad }) => `${good} to add, ${bad} not good.`,
    },
    () => this.closed.emit(),
  );
}
