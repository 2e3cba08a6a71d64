import { Component, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { SERIAL_COLUMNS, type SerialListPreview } from '@iron-lattice/core/intake';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { FileDrop } from '../ui/file-drop';
import { type PreviewColumn } from '../ui/list-preview';
import { ListSeen } from '../ui/list-seen';
import { IntakeApi } from './intake-api';

const TITLES: Readonly<Record<string, string>> = { serial: 'Serial', mac: 'MAC' };

/** A list of serial numbers, typed, pasted, CSV or XLSX: every row is looked at before any is taken. */
@Component({
  selector: 'il-find-by-list',
  imports: [FormsModule, MatButtonModule, Cell, FileDrop, ListSeen],
  template: `
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
          >: <span class="good">{{ seen.good }} good</span>, <span [class.bad]="seen.bad > 0">{{ seen.bad }} not</span>.
          {{ seen.bad > 0 ? 'Nothing is imported until you say so.' : '' }}</span
        >
        @if (seen.bad === 0 && seen.good > 0) {
          <button mat-flat-button [disabled]="busy()" (click)="take(false)">Expect {{ seen.good }} devices</button>
        } @else if (seen.good > 0) {
          <button mat-flat-button [disabled]="busy()" (click)="take(true)">
            Expect the {{ seen.good }} good, leave out {{ seen.bad }}
          </button>
        }
      </il-list-seen>
    } @else {
      <div class="cells">
        <il-cell label="Type or paste, one device on each line" for="serial-text" size="wide">
          <textarea
            id="serial-text"
            class="mono"
            rows="4"
            [(ngModel)]="text"
            placeholder="3A1-0149-57, GW-4
5C2-0135-55, SW-24P"
            spellcheck="false"
          ></textarea>
          <button mat-stroked-button [disabled]="busy() || text.trim() === ''" (click)="look('Typed list', text)">
            Look at it
          </button>
        </il-cell>
        <il-cell label="Or a file" [hint]="hint()">
          <il-file-drop
            label="Choose CSV or XLSX, or drop it here"
            hint="Every row is looked at before any is taken."
            accept=".csv,.txt,.tsv,.xlsx"
            (file)="look($event.name, $event)"
          />
          <p class="hint"><a href="/api/serial-lists/sample" download>Sample file</a></p>
        </il-cell>
        @if (problem()) {
          <div class="cell full">
            <p class="flaw" role="alert">{{ problem()?.message }}</p>
          </div>
        }
      </div>
    }
  `,
  styles: `
    textarea {
      width: 100%;
      box-sizing: border-box;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      padding: 6px 8px;
      resize: vertical;
      margin-bottom: 4px;
    }
  `,
})
export class FindByList {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  readonly siteId = input.required<string | null>();
  readonly done = output<void>();
  protected readonly columns: readonly PreviewColumn[] = SERIAL_COLUMNS.map(({ key }) => ({
    key,
    title: TITLES[key] ?? key[0]!.toUpperCase() + key.slice(1),
  }));
  protected text = '';
  protected readonly name = signal('');
  protected readonly preview = signal<SerialListPreview | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  protected hint = (): string =>
    this.siteId() === null
      ? 'Each row names its site.'
      : `Rows that name no site are for ${this.site.site()?.name ?? 'this one'}.`;

  protected async look(name: string, list: string | File): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      const file = typeof list === 'string' ? new Blob([list]) : list;
      this.preview.set(await this.api.previewList(file, this.siteId()));
      this.name.set(name);
    });
  }

  protected async take(leaveOutBad: boolean): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      const { imported } = await this.api.importList(this.preview()!.token, leaveOutBad);
      this.site.say(`${imported} devices are expected now. Each comes into step by itself when it calls.`);
      this.done.emit();
    });
  }
}
