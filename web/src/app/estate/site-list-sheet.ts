import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SITE_COLUMNS, type ImportResult, type SiteListPreview } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { FileDrop } from '../ui/file-drop';
import { type PreviewColumn } from '../ui/list-preview';
import { ListSeen } from '../ui/list-seen';
import { Sheet } from '../ui/sheet';

const TITLES: Readonly<Record<string, string>> = {
  name: 'Name',
  country: 'Country',
  timeZone: 'Time zone',
  address: 'Address',
  tags: 'Tags',
  code: 'Short form',
};

/** Sites from a list: every row is looked at before any is added. */
@Component({
  selector: 'il-site-list-sheet',
  imports: [MatButtonModule, Cell, FileDrop, ListSeen, Sheet],
  template: `
    <il-sheet
      heading="Sites from a list"
      note="Each starts with a management segment in free address space."
      (closed)="closed.emit()"
    >
      @if (preview()?.good) {
        <button actions mat-flat-button [disabled]="busy()" (click)="take(preview()!.bad > 0)">{{ offer() }}</button>
      }
      @if (preview(); as seen) {
        <il-list-seen
          [rows]="seen.rows"
          [columns]="columns"
          [flaws]="seen.flaws"
          [problem]="problem()?.message"
          (another)="preview.set(null)"
        >
          <span status
            ><b>{{ name() }}</b
            >: <span class="good">{{ seen.good }} good</span>,
            <span [class.bad]="seen.bad > 0">{{ seen.bad }} not</span>.</span
          >
        </il-list-seen>
      } @else {
        <div class="cells">
          <il-cell
            label="CSV or XLSX with name, country, time zone, address, tags"
            size="wide"
            [flaw]="problem()?.message"
          >
            <il-file-drop
              label="Choose a file, or drop it here"
              hint="Every row is looked at before any site is added."
              accept=".csv,.txt,.xlsx"
              (file)="look($event)"
            />
            <p class="hint"><a href="/api/site-lists/sample" download>Sample file</a></p>
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
export class SiteListSheet {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  readonly closed = output<void>();
  protected readonly columns: readonly PreviewColumn[] = SITE_COLUMNS.map(({ key }) => ({
    key,
    title: TITLES[key] ?? key,
  }));
  protected readonly name = signal('');
  protected readonly preview = signal<SiteListPreview | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly offer = computed(() => {
    const { good, bad } = this.preview()!;
    return bad > 0 ? `Add the ${good} good, leave out ${bad}` : `Add ${good} ${good === 1 ? 'site' : 'sites'}`;
  });
  protected readonly busy = signal(false);

  protected async look(file: File): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      const headers = { 'content-type': 'application/octet-stream' };
      this.preview.set(await firstValueFrom(this.http.post<SiteListPreview>('/api/site-lists', file, { headers })));
      this.name.set(file.name);
    });
  }

  protected async take(leaveOutBad: boolean): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      const { token } = this.preview()!;
      const { imported } = await firstValueFrom(
        this.http.post<ImportResult>('/api/site-lists/import', { token, leaveOutBad }),
      );
      this.site.say(imported === 1 ? '1 site was added.' : `${imported} sites were added.`);
      this.closed.emit();
    });
  }
}
