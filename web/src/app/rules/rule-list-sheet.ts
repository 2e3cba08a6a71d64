import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RULE_COLUMNS, type RuleListPreview } from '@iron-lattice/core/intent';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell } from '../ui/choice-cell';
import { FileDrop } from '../ui/file-drop';
import type { PreviewColumn } from '../ui/list-preview';
import { ListSeen } from '../ui/list-seen';
import { Sheet } from '../ui/sheet';
import { RulesApi, type RuleBookName } from './rules-api';

/** Rules from a list, dropped or pasted: every row is looked at before any becomes an edit. */
@Component({
  selector: 'il-rule-list-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, FileDrop, ListSeen, Sheet],
  template: `
    <il-sheet
      heading="Rules from a list"
      note="Good rows come behind the last rule, in their order."
      (closed)="closed.emit()"
    >
      @if (preview()?.operations?.length) {
        <button actions mat-flat-button [disabled]="busy()" (click)="take()">
          {{ bad() > 0 ? 'Put the good rows into the draft' : 'Put into the draft' }}
        </button>
      }
      @if (preview(); as seen) {
        <il-list-seen
          [rows]="seen.rows"
          [columns]="columns"
          [flaws]="seen.flaws"
          [problem]="problem()?.message"
          (another)="preview.set(null)"
        >
          <span status>{{ seen.rows.length - bad() }} to add, {{ bad() }} not good.</span>
        </il-list-seen>
      } @else {
        <div class="cells">
          <il-choice-cell
            label="Rulebook"
            for="rule-list-book"
            [options]="books"
            [value]="book()"
            (chosen)="book.set($event)"
          />
          <il-cell label="CSV or XLSX with verdict, from, to, services" [flaw]="problem()?.message">
            <il-file-drop
              label="Choose a file, or drop it here"
              hint="Also: times, log, off, comment"
              accept=".csv,.txt,.xlsx"
              (file)="look($event)"
            />
            <p class="hint"><a [href]="api.base + '/rules/csv'" download>This site’s rules as CSV</a>, to begin with</p>
          </il-cell>
          <il-cell label="Or paste rows" for="rule-rows" size="wide">
            <textarea
              #pasted
              id="rule-rows"
              class="mono"
              rows="5"
              spellcheck="false"
              placeholder="allow,segment Crew,internet,tcp 443&#10;deny,segment Cameras,internet"
            ></textarea>
            <button mat-stroked-button [disabled]="busy()" (click)="paste(pasted.value)">Look at them</button>
          </il-cell>
        </div>
      }
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    textarea {
      width: 100%;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
    }
  `,
})
export class RuleListSheet {
  private readonly store = inject(SiteStore);
  protected readonly api = inject(RulesApi);
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
  protected readonly preview = signal<RuleListPreview | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  protected readonly bad = computed(() => this.preview()?.rows.filter((row) => row.good === null).length ?? 0);

  protected async look(file: Blob): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      this.preview.set(await this.api.look(this.book(), file));
    });
  }

  protected paste(text: string): Promise<void> {
    return this.look(new Blob([text]));
  }

  protected async take(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      await this.store.edit(this.preview()!.operations);
      this.closed.emit();
    });
  }
}
