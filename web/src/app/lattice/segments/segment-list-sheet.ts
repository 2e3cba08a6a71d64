import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SEGMENT_COLUMNS, type SegmentListPreview } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../../session/problem';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { FileDrop } from '../../ui/file-drop';
import { type PreviewColumn } from '../../ui/list-preview';
import { ListSeen } from '../../ui/list-seen';
import { Sheet } from '../../ui/sheet';

/** Segments from a list: every row is looked at as an edit of the draft before any is made. */
@Component({
  selector: 'il-segment-list-sheet',
  imports: [MatButtonModule, Cell, FileDrop, ListSeen, Sheet],
  template: `
    <il-sheet
      heading="Segments from a list"
      note="A name the site has changes that segment; any other adds one."
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
          <span status>{{ summary() }}</span>
        </il-list-seen>
      } @else {
        <div class="cells">
          <il-cell label="CSV or XLSX with a name and a VLAN ID in each row" size="wide" [flaw]="problem()?.message">
            <il-file-drop
              label="Choose a file, or drop it here"
              hint="Columns that are missing leave what is there; empty cells of new segments are derived."
              accept=".csv,.txt,.xlsx"
              (file)="look($event)"
            />
            <p class="hint"><a [href]="sample()" download>This site’s segments as CSV</a>, to begin with</p>
          </il-cell>
        </div>
      }
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class SegmentListSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = SEGMENT_COLUMNS.map(({ key, headings }) => ({
    key,
    title: headings[0]!,
  }));
  protected readonly preview = signal<SegmentListPreview | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  private readonly base = computed(() => `/api/drafts/${this.store.draft()?.id}/sites/${this.store.siteId()}`);
  protected readonly sample = computed(() => `${this.base()}/segments/csv`);
  protected readonly bad = computed(() => this.preview()?.rows.filter((row) => row.good === null).length ?? 0);
  protected readonly summary = computed(() => {
    const { rows = [], operations = [] } = this.preview() ?? {};
    const added = operations.filter((each) => each.type === 'segment.add').length;
    const same = rows.length - this.bad() - operations.length;
    return `${added} to add, ${operations.length - added} to change, ${same} as they are, ${this.bad()} not good.`;
  });

  protected async look(file: File): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      const headers = { 'content-type': 'application/octet-stream' };
      const url = `${this.base()}/segment-list`;
      this.preview.set(await firstValueFrom(this.http.post<SegmentListPreview>(url, file, { headers })));
    });
  }

  protected async take(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      await this.store.edit(this.preview()!.operations);
      this.closed.emit();
    });
  }
}
