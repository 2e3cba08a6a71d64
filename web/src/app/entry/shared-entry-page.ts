import { Component, computed, effect, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { AccessClass } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { lacksColumn, purposeColumn, reachColumn, sitesColumn, type SharedRow } from '../shell/shared-columns';
import { SharedList } from '../shell/shared-list';
import { SharedStore } from '../shell/shared-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { ClassSheet } from './class-sheet';
import { DirectoryStore } from './directory/directory-store';
import { CLIENT_SHOWN, ENTRY_VIEWS, EntryViews, USER_SHOWN, SITE_VIEWS } from './entry-views';
import { RegisterFoot } from './register/register-foot';
import { RegisterStore } from './register/register-store';
import { RegisterView } from './register/register-view';
import { ServerSheet } from './server-sheet';
import { ServersView } from './servers-view';
import { UsersFoot } from './users-foot';
import { UsersStore } from './users-store';
import { UsersView } from './users-view';

type Row = AccessClass & SharedRow;

const COLUMNS: readonly TableColumn<Row>[] = [
  { key: 'name', title: 'Access class', text: ({ name }) => name, width: 130, phone: true },
  { key: 'segment', title: 'Segment', text: ({ segment }) => segment, width: 110, groups: true },
  {
    key: 'members',
    title: 'Known clients',
    text: ({ members }) => String(members.length),
    order: ({ members }) => members.length,
    width: 90,
    mono: true,
  },
  {
    key: 'groups',
    title: 'Groups',
    text: ({ groups, otherwise }) => [...(groups ?? []), ...(otherwise ? ['everybody else'] : [])].join('; '),
    width: 110,
    groups: true,
  },
  reachColumn(),
  sitesColumn(),
  lacksColumn('its segment'),
  purposeColumn(),
];

/** Access classes of the estate, where each reaches and lacks its segment; and RADIUS servers. */
@Component({
  selector: 'il-shared-entry-page',
  imports: [
    MatButtonModule,
    ClassSheet,
    RegisterFoot,
    RegisterView,
    ServerSheet,
    ServersView,
    SharedList,
    Stage,
    UsersFoot,
    UsersView,
  ],
  template: `
    <il-stage heading="Entry" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each) {
          <button type="button" [attr.aria-pressed]="shown.view() === each" (click)="shown.look(each)">
            {{ each }}
          </button>
        }
      </div>
      @if (session.mayChange() && shown.view() === 'Servers' && mayAnswer()) {
        <button actions mat-stroked-button (click)="begin(true)">Have this controller asked</button>
      }
      @if (session.mayChange() && shown.view() === 'Servers') {
        <button actions mat-flat-button (click)="begin(false)">Add RADIUS server</button>
      } @else if (session.mayChange() && shown.view() === 'Classes') {
        <button actions mat-flat-button (click)="opened.begin()">Add access class</button>
      }
      @if (shown.view() === 'Servers') {
        <il-servers-view [opened]="server" />
      } @else if (shown.view() === 'Users') {
        <il-users-view (wanted)="begin(true)" />
      } @else if (shown.view() === 'Register') {
        <il-register-view />
      } @else {
        <il-shared-list
          label="Access classes"
          remember="shared-classes"
          [things]="classes()"
          [columns]="columns"
          [shown]="opened.id()"
          (opened)="opened.open($event)"
        >
          No access class yet. A class gives clients that are known by their MAC addresses a segment, whatever SSID or
          port they come by, and rules can name it.
        </il-shared-list>
      }
      <ng-container ngProjectAs="[foot]">
        @if (shown.view() === 'Servers') {
          @if (server.isNew()) {
            <il-server-sheet [server]="null" [own]="own()" (closed)="server.close()" (kept)="server.open($event)" />
          } @else if (server.row(); as each) {
            <il-server-sheet [server]="each" (closed)="server.close()" (kept)="server.open($event)" />
          }
        } @else if (shown.view() === 'Users') {
          <il-users-foot />
        } @else if (shown.view() === 'Register') {
          <il-register-foot />
        } @else if (opened.isNew()) {
          <il-class-sheet [accessClass]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
        } @else if (opened.row(); as each) {
          <il-class-sheet [accessClass]="each" (closed)="opened.close()" (kept)="opened.open($event)" />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-class-sheet,
    il-server-sheet {
      display: contents;
    }
  `,
  providers: [DirectoryStore, RegisterStore, UsersStore],
})
export class SharedEntryPage {
  protected readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  private readonly users = inject(UsersStore);
  private readonly register = inject(RegisterStore);
  readonly show = input<string>();
  readonly add = input<string>();
  /** Which view, from the address of the page. */
  readonly as = input<string>();
  private readonly servers = computed(() => this.shared.estate()?.radius ?? []);
  protected readonly views = ENTRY_VIEWS.filter((each) => !SITE_VIEWS.includes(each));
  protected readonly shown = new EntryViews({ as: this.as, show: this.show, servers: this.servers });
  protected readonly server = new OpenedRow({ rows: this.servers, show: this.show });
  /** Whether the new server is this controller itself. */
  protected readonly own = signal(false);
  protected readonly mayAnswer = computed(() => !this.servers().some(({ own }) => own));
  protected readonly columns = COLUMNS;
  protected readonly classes = computed(() => this.shared.estate()?.classes ?? []);
  protected readonly opened = new OpenedRow({ rows: this.classes, show: this.show, add: this.add });
  protected readonly note = computed(() => {
    const classes = counted(this.classes().length, 'class', 'classes');
    return `${classes}, ${counted(this.servers().length, 'RADIUS server')}, at all sites`;
  });

  constructor() {
    effect(() => {
      const show = this.show();
      if (show?.startsWith(USER_SHOWN)) this.users.sheet.set({ of: 'user', id: show.slice(USER_SHOWN.length) });
      if (show?.startsWith(CLIENT_SHOWN)) this.register.open(show.slice(CLIENT_SHOWN.length));
    });
  }

  /** A new server. @param own whether it is this controller. */
  protected begin(own: boolean): void {
    this.own.set(own);
    if (this.shown.view() !== 'Servers') this.shown.look('Servers');
    this.server.begin();
  }
}
