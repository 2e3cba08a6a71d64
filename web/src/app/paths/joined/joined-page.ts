import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SessionStore } from '../../session/session-store';
import { SiteStore } from '../../shell/site-store';
import { anewFor } from '../../ui/anew-for';
import { counted } from '../../ui/counted';
import type { TableColumn } from '../../ui/data-rows';
import { DataTable } from '../../ui/data-table';
import { OpenedRow } from '../../ui/opened-row';
import { Stage } from '../../ui/stage';
import { TextCell } from '../../ui/text-cell';
import { attempt, type Problem } from '../../session/problem';
import { JoinedMap } from './joined-map';
import { JoinedRehearsal } from './joined-rehearsal';
import { faresWords, sharesWords, type JoinedRow } from './joined-rows';
import { JoinedStore } from './joined-store';
import { MemberSheet } from './member-sheet';
import { listTyped } from './member-text';

const COLUMNS: readonly TableColumn<JoinedRow>[] = [
  { key: 'name', title: 'Site', text: ({ join }) => join.name, width: 110, phone: true },
  { key: 'role', title: 'Is a', text: ({ member }) => member.role, width: 50, groups: true },
  {
    key: 'tunnels',
    title: 'Tunnels',
    text: (row) => faresWords(row).words,
    tone: (row) => faresWords(row).tone,
    width: 100,
    groups: true,
    phone: true,
  },
  {
    key: 'delay',
    title: 'There and back',
    text: ({ tunnels }) => delayWords(tunnels[0]?.fact?.delay),
    order: ({ tunnels }) => tunnels[0]?.fact?.delay ?? -1,
    width: 90,
  },
  { key: 'hubs', title: 'By', text: ({ hubs }) => hubs.join(', then '), width: 180, groups: true },
  {
    key: 'shares',
    title: 'Shares',
    text: sharesWords,
    order: ({ join }) => join.carries.length,
    width: 90,
  },
  {
    key: 'carries',
    title: 'Networks',
    text: ({ join }) => join.carries.join(', '),
    width: 220,
    mono: true,
    hidden: true,
  },
  { key: 'at', title: 'Is found at', text: ({ join }) => join.at.join(', '), width: 215, mono: true },
  {
    key: 'leaves',
    title: 'The internet',
    text: ({ member }) => (member.leaves === 'hub' ? 'by its hub' : 'by itself'),
    width: 90,
    groups: true,
    hidden: true,
  },
  { key: 'gateway', title: 'Gateway', text: ({ gateway }) => gateway, width: 80, mono: true },
];
const delayWords = (delay: number | undefined): string => (delay === undefined ? '' : `${Math.round(delay)} ms`);

/** Sites that are joined to each other by tunnels: what each shares, by which hubs, how tunnels fare, and the way between any two. */
@Component({
  selector: 'il-joined-page',
  imports: [MatButtonModule, DataTable, JoinedMap, JoinedRehearsal, MemberSheet, Stage, TextCell],
  providers: [JoinedStore],
  template: `
    <il-stage heading="Joined sites" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each) {
          <button type="button" [attr.aria-pressed]="view() === each" (click)="view.set(each)">{{ each }}</button>
        }
      </div>
      @if (session.mayChange()) {
        <button actions mat-flat-button type="button" (click)="opened.begin()">Join a site</button>
      }
      <div class="body">
        @if (store.spans() !== null) {
          <div class="spans">
            <il-text-cell
              label="Networks of all sites are in"
              for="joined-spans"
              [mono]="true"
              hint="What is for there goes into tunnels or nowhere. Every joined site is told."
              [readonly]="!session.mayChange()"
              [flaw]="flaw()"
              [value]="spans()"
              (typed)="spans.set($event)"
              (done)="saveSpans()"
            />
          </div>
        }
        <div class="all">
          @if (view() === 'Rehearsal' && store.rows().length > 0) {
            <il-joined-rehearsal />
          } @else if (view() === 'Map' && store.rows().length > 0) {
            <il-joined-map [rows]="store.rows()" [shown]="opened.id()" (opened)="opened.open($event)" />
          } @else {
            <il-data-table
              label="Joined sites"
              remember="joined-sites"
              [rows]="store.rows()"
              [columns]="columns"
              [key]="key"
              [name]="nameOf"
              [shown]="opened.id()"
              (opened)="opened.open($event.id)"
            >
              <span empty>
                @if (store.problem(); as problem) {
                  {{ problem.message }}
                } @else if (store.estate()) {
                  No site is joined yet. Join one that others can find as a hub, such as your head office; then join the
                  others to it. Nothing is told to any gateway before you roll it out.
                } @else {
                  Fetching how sites are joined…
                }
              </span>
            </il-data-table>
          }
        </div>
      </div>
      <ng-container ngProjectAs="[foot]">
        @if (opened.isNew()) {
          <il-member-sheet [row]="null" (closed)="opened.close()" (added)="opened.open($event)" />
        } @else if (opened.row(); as row) {
          <il-member-sheet [row]="row" (closed)="opened.close()" />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .body {
      display: flex;
      flex-direction: column;
      height: 100%;
      min-height: 0;
    }
    .spans {
      flex: none;
      display: grid;
      grid-template-columns: minmax(0, 460px);
      border-top: 1px solid var(--rule);
      margin-bottom: 8px;
    }
    .all {
      flex: 1;
      min-height: 0;
    }
    il-member-sheet {
      display: contents;
    }
    @media (max-width: 720px) {
      /* The table scrolls by itself; the map is as high as it is. */
      .all {
        min-height: 260px;
        overflow: auto;
      }
    }
  `,
})
export class JoinedPage {
  protected readonly session = inject(SessionStore);
  protected readonly store = inject(JoinedStore);
  private readonly site = inject(SiteStore);
  readonly show = input<string>();
  readonly add = input<string>();
  protected readonly views = ['Table', 'Map', 'Rehearsal'] as const;
  protected readonly view = signal<JoinedPage['views'][number]>('Table');
  protected readonly columns = COLUMNS;
  protected readonly key = ({ id }: JoinedRow): string => id;
  protected readonly nameOf = ({ join }: JoinedRow): string => join.name;
  protected readonly opened = new OpenedRow({ rows: () => this.store.rows(), show: this.show, add: this.add });
  protected readonly spans = anewFor<string>(
    () => this.store.spans()?.join(', ') ?? '',
    () => this.store.spans()?.join(', ') ?? '',
  );
  private readonly problem = anewFor<Problem | null>(
    () => this.spans(),
    () => null,
  );
  private readonly busy = signal(false);
  protected readonly flaw = computed(() => this.problem()?.of('spans') ?? this.problem()?.message);
  protected readonly note = computed(() => {
    const rows = this.store.rows();
    if (rows.length === 0) return '';
    const hubs = rows.filter(({ member }) => member.role === 'hub').length;
    const down = rows
      .flatMap(({ tunnels }) => tunnels)
      .filter(({ state }) => state === 'down' || state === 'never').length;
    return `${counted(hubs, 'hub')}, ${counted(rows.length - hubs, 'spoke')}${down > 0 ? `; ${counted(down, 'end of tunnels', 'ends of tunnels')} down` : ''}`;
  });

  protected async saveSpans(): Promise<void> {
    const from = this.store.estate()?.overlay ?? null;
    const to = { spans: listTyped(this.spans()) };
    if (from === null || from.spans.join() === to.spans.join()) return;
    await attempt(this.busy, this.problem, () => this.site.edit([{ type: 'overlay.set', from, to }]));
  }
}
