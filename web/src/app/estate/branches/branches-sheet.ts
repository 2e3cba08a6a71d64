import { HttpClient } from '@angular/common/http';
import { Component, computed, DestroyRef, effect, inject, output, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { BranchesMade, BranchesSeen } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';
import { attempt, problemOf, type Problem } from '../../session/problem';
import { SharedStore } from '../../shell/shared-store';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { counted } from '../../ui/counted';
import { FileDrop } from '../../ui/file-drop';
import { Sheet } from '../../ui/sheet';
import { BranchesSeenView } from './branches-seen';
import {
  commonTyped,
  NO_BRANCH,
  NO_COMMON,
  tableOfOne,
  usualOf,
  type BranchText,
  type CommonText,
  type FlawOf,
} from './branches-text';
import { BranchCells } from './branch-cells';
import { CommonCells } from './common-cells';

/** How long somebody may go on typing before it is looked at anew, in milliseconds. */
const SOON_MS = 300;
const MODES = ['One branch', 'A list'] as const;
const EXAMPLE = `name, gateway, model, uplinks, tags
Harrow Point, 3A1-0201-11, GW-4, dhcp 100/20; wan2 cellular standby, terminal`;

/**
 * Branches in one go: what cannot be derived is typed, for one or as a list of many; what would be there, what it follows from, and who
 * would be told what is shown beside it before any of it is made.
 */
@Component({
  selector: 'il-branches-sheet',
  imports: [MatButtonModule, BranchCells, BranchesSeenView, Cell, CommonCells, FileDrop, Sheet],
  template: `
    <il-sheet
      heading="Branches in one go"
      note="The same sites, devices, segments and tunnels as everywhere: each is changed where it lives."
      [focusFirst]="true"
      (closed)="closed.emit()"
    >
      <button actions mat-flat-button type="button" [disabled]="busy() || !ready()" (click)="make()">
        {{ label() }}
      </button>
      <div class="both">
        <div>
          <div class="choices" role="group" aria-label="How many">
            @for (each of modes; track each) {
              <button type="button" [attr.aria-pressed]="mode() === each" (click)="mode.set(each)">{{ each }}</button>
            }
          </div>
          <div class="cells">
            @if (mode() === 'One branch') {
              <il-branch-cells part="what" [text]="text()" [flawOf]="flawOf()" (typed)="put($event)" />
            } @else {
              <il-cell label="Typed or pasted, a branch on each line" for="branch-rows" size="wide">
                <textarea
                  #rows
                  id="branch-rows"
                  class="mono"
                  rows="6"
                  spellcheck="false"
                  [placeholder]="example"
                  [value]="list()"
                  (input)="list.set(rows.value)"
                ></textarea>
                <button
                  mat-stroked-button
                  type="button"
                  [disabled]="busy() || list().trim() === ''"
                  (click)="read('What was typed', list())"
                >
                  Look at it
                </button>
              </il-cell>
              <il-cell label="Or a file: CSV or XLSX" [flaw]="unread()?.message">
                <il-file-drop
                  label="Choose a file, or drop it here"
                  accept=".csv,.txt,.tsv,.xlsx"
                  hint="What a cell leaves empty is derived, or as below."
                  (file)="read($event.name, $event)"
                />
                <p class="hint"><a href="/api/branch-lists/sample" download>Sample file</a></p>
                @if (table(); as known) {
                  <p>{{ known.name }}: {{ lines(known.table.length) }}</p>
                }
              </il-cell>
            }
            <il-common-cells part="joined" [text]="common()" [flawOf]="flawOf()" (said)="say($event)" />
            @if (mode() === 'One branch') {
              <il-branch-cells part="where" [text]="text()" [flawOf]="flawOf()" (typed)="put($event)" />
            }
            <il-common-cells part="steered" [text]="common()" [flawOf]="flawOf()" (said)="say($event)" />
          </div>
        </div>
        <section aria-label="What will be there">
          <h3>What will be there</h3>
          @if (problem(); as wrong) {
            <p class="flaw" role="alert">{{ wrong.message }}</p>
          }
          @if (seen(); as known) {
            <il-branches-seen [class.old]="!fresh()" [seen]="known" />
          } @else {
            <p class="soft">{{ waiting() }}</p>
          }
        </section>
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .both {
      display: grid;
      grid-template-columns: minmax(0, 1fr) minmax(280px, 40%);
    }
    .choices {
      margin: 8px 14px;
    }
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
    section {
      padding: 10px 14px 14px;
      border-left: 1px solid var(--rule);
    }
    h3 {
      margin: 0 0 6px;
    }
    .old {
      opacity: 0.55;
    }
    .flaw {
      color: var(--bad);
    }
    @media (max-width: 720px) {
      .both {
        grid-template-columns: minmax(0, 1fr);
      }
      section {
        border-left: 0;
        border-top: 1px solid var(--ink);
      }
    }
  `,
})
export class BranchesSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore).follow();
  readonly closed = output<void>();
  protected readonly modes = MODES;
  protected readonly example = EXAMPLE;
  protected readonly mode = signal<(typeof MODES)[number]>('One branch');
  protected readonly text = signal<BranchText>(NO_BRANCH);
  protected readonly list = signal('');
  /** The list as it was read, and what it is called. */
  protected readonly table = signal<{ readonly name: string; readonly table: string[][] } | null>(null);
  protected readonly unread = signal<Problem | null>(null);
  private readonly said = signal<Partial<CommonText>>({});
  /** All recipes, and the hubs of most sites, until somebody says otherwise. */
  protected readonly common = computed((): CommonText => ({
    ...NO_COMMON,
    ...usualOf(this.shared.estate()),
    ...this.said(),
  }));
  protected readonly seen = signal<BranchesSeen | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  private readonly seenOf = signal('');
  /** What is asked for; null while there is nothing to ask. */
  private readonly asked = computed(() => {
    const common = commonTyped(this.common());
    if (this.mode() === 'A list') {
      const table = this.table()?.table;
      return table ? { table, common } : null;
    }
    const text = this.text();
    return text.name.trim() === '' || text.serial.trim() === '' ? null : { table: tableOfOne(text), common };
  });
  private readonly key = computed(() =>
    JSON.stringify([this.asked(), this.store.draft()?.id, this.store.draft()?.head]),
  );
  /** Whether what is shown is what would be made of what is typed. */
  protected readonly fresh = computed(() => this.asked() !== null && this.seenOf() === this.key());
  protected readonly ready = computed(() => this.fresh() && (this.seen()?.count.sites ?? 0) > 0);
  private readonly bad = computed(() => (this.seen()?.rows ?? []).filter(({ good }) => good === null).length);
  protected readonly label = computed(() => {
    const sites = this.ready() ? this.seen()!.count.sites : 0;
    if (sites === 0) return 'Make them';
    const bad = this.bad();
    return bad > 0 ? `Make the ${sites} good, leave out ${bad}` : `Make ${counted(sites, 'branch', 'branches')}`;
  });
  protected readonly waiting = computed(() => {
    if (this.asked() !== null) return 'Looking…';
    return this.mode() === 'A list' ? 'Bring the list.' : 'A name and the serial number of its gateway are enough.';
  });

  constructor() {
    let timer: ReturnType<typeof setTimeout> | undefined;
    effect(() => {
      const key = this.key();
      untracked(() => {
        clearTimeout(timer);
        this.problem.set(null);
        if (this.asked() === null) this.seen.set(null);
        else timer = setTimeout(() => void this.look(key), SOON_MS);
      });
    });
    inject(DestroyRef).onDestroy(() => clearTimeout(timer));
  }

  private async look(key: string): Promise<void> {
    const [asked, draft] = [this.asked(), this.store.draft()];
    if (!asked || !draft) return;
    const answer = await firstValueFrom(
      this.http.post<BranchesSeen>(`/api/drafts/${draft.id}/branches/look`, asked),
    ).then(
      (seen) => ({ seen }),
      (error: unknown) => ({ problem: problemOf(error) }),
    );
    if (key !== untracked(this.key)) return; // somebody typed on
    this.seenOf.set(key);
    this.seen.set('seen' in answer ? answer.seen : null);
    this.problem.set('problem' in answer ? answer.problem : null);
  }

  protected async read(name: string, list: string | Blob): Promise<void> {
    const headers = { 'content-type': 'application/octet-stream' };
    const file = typeof list === 'string' ? new Blob([list]) : list;
    await attempt(this.busy, this.unread, async () => {
      const read = this.http.post<{ table: string[][] }>('/api/branch-lists', file, { headers });
      this.table.set({ name, table: (await firstValueFrom(read)).table });
    });
  }

  protected async make(): Promise<void> {
    const [asked, draft, seen] = [this.asked(), this.store.draft(), this.seen()];
    if (!asked || !draft || !seen || !this.ready()) return;
    const body = { ...asked, basis: seen.basis, leaveOutBad: this.bad() > 0 };
    const done = await attempt(this.busy, this.problem, async () => {
      const made = await firstValueFrom(this.http.post<BranchesMade>(`/api/drafts/${draft.id}/branches`, body));
      const boxes = counted(made.devices, 'box', 'boxes');
      this.store.say(`${counted(made.sites, 'branch', 'branches')} made, ${boxes} expected. The rest is in the draft.`);
    });
    if (done) this.closed.emit();
    else this.seenOf.set(''); // it is looked at anew
  }

  protected put(change: Partial<BranchText>): void {
    this.text.update((text) => ({ ...text, ...change }));
  }

  protected say(change: Partial<CommonText>): void {
    this.said.update((said) => ({ ...said, ...change }));
  }

  /** What is wrong with a field of the one branch, or with what all have. */
  protected readonly flawOf = computed((): FlawOf => {
    const seen = this.fresh() ? this.seen() : null;
    const row = this.mode() === 'One branch' ? (seen?.rows[0]?.flaws ?? []) : [];
    return (field) =>
      [...(seen?.flaws ?? []), ...row]
        .filter((flaw) => flaw.field === field)
        .map(({ message }) => message)
        .join(' ');
  });

  protected lines = (rows: number): string => counted(rows, 'line');
}
