import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, output } from '@angular/core';
import { SEGMENT_COLUMNS, type SegmentListPreview } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import type { ListWays } from '../../shell/list-body';
import { ListSheet } from '../../shell/list-sheet';
import { ListTaking } from '../../shell/list-taking';
import { SiteStore } from '../../shell/site-store';
import type { PreviewColumn } from '../../ui/list-preview';

/** Segments from a list: every row is looked at as an edit of the draft before any is made. */
@Component({
  selector: 'il-segment-list-sheet',
  imports: [ListSheet],
  template: `
    <il-list-sheet
      heading="Segments from a list"
      note="A name the site has changes that segment; any other adds one."
      [taking]="taking"
      [columns]="columns"
      [ways]="ways()"
      (closed)="closed.emit()"
    />
  `,
  styles: ':host { display: contents; }',
})
export class SegmentListSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = SEGMENT_COLUMNS.map(({ key, headings }) => ({
    key,
    title: headings[0]!,
  }));
  private readonly base = computed(() => `/api/drafts/${this.store.draft()?.id}/sites/${this.store.siteId()}`);
  protected readonly ways = computed((): ListWays => ({
    label: 'CSV or XLSX with a name and a VLAN ID in each row',
    hint: 'Columns that are missing leave what is there; empty cells of new segments are derived.',
    sample: { href: `${this.base()}/segments/csv`, label: 'This site’s segments as CSV, to begin with' },
  }));
  protected readonly taking = new ListTaking<SegmentListPreview>(
    {
      look: (file) => {
        const headers = { 'content-type': 'application/octet-stream' };
        return firstValueFrom(this.http.post<SegmentListPreview>(`${this.base()}/segment-list`, file, { headers }));
      },
      take: ({ operations }) => this.store.edit(operations),
      offer: ({ operations }, { bad }) => {
        if (operations.length === 0) return null;
        return bad > 0 ? 'Put the good rows into the draft' : 'Put into the draft';
      },
      summary: ({ rows, operations }, { bad }) => {
        const added = operations.filter((each) => each.type === 'segment.add').length;
        const same = rows.length - bad - operations.length;
        return `${added} to add, ${operations.length - added} to change, ${same} as they are, ${bad} not good.`;
      },
    },
    () => this.closed.emit(),
  );
}
