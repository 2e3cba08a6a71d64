import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { asksWho } from '@iron-lattice/core/document';
import { isUplink, portSetting, type AccessClass } from '@iron-lattice/core/intent';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { SiteClients } from '../shell/site-clients';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { OpenedRow } from '../ui/opened-row';
import { reachWords } from '../ui/reach-words';
import { SegmentTag } from '../ui/segment-tag';
import { Stage } from '../ui/stage';
import { ClassSheet } from './class-sheet';
import { DirectoryStore } from './directory/directory-store';
import { ENTRY_VIEWS, EntryViews } from './entry-views';
import { HealthStore } from './health-store';
import { RegisterFoot } from './register/register-foot';
import { RegisterStore } from './register/register-store';
import { RegisterView } from './register/register-view';
import { ServerSheet } from './server-sheet';
import { ServersView } from './servers-view';
import { SessionSheet } from './session-sheet';
import { SessionsView } from './sessions-view';
import { TakenStore } from './taken-store';
import { UnknownView } from './unknown-view';
import { UsersFoot } from './users-foot';
import { UsersStore } from './users-store';
import { UsersView } from './users-view';

/** Who is let in as what: the access classes that reach this site. */
@Component({
  selector: 'il-entry-page',
  imports: [
    MatButtonModule,
    ClassSheet,
    RegisterFoot,
    RegisterView,
    SegmentTag,
    ServerSheet,
    ServersView,
    SessionSheet,
    SessionsView,
    Stage,
    UnknownView,
    UsersFoot,
    UsersView,
  ],
  template: `
    <il-stage heading="Entry" [note]="shown.view() === 'Servers' ? '' : asked()">
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
        <button actions mat-stroked-button (click)="begin(false)">Add RADIUS server</button>
      } @else if (session.mayChange() && shown.view() === 'Classes') {
        <button actions mat-stroked-button (click)="opened.begin()">Add access class</button>
      }
      @if (shown.view() === 'Servers') {
        <il-servers-view [opened]="server" />
      } @else if (shown.view() === 'Users') {
        <il-users-view (wanted)="begin(true)" />
      } @else if (shown.view() === 'Register') {
        <il-register-view />
      } @else if (shown.view() === 'Sessions') {
        <il-sessions-view [(chosen)]="inSight" />
      } @else if (shown.view() === 'Not known') {
        <il-unknown-view />
      } @else {
        <table class="grid" aria-label="Access classes" (keydown)="opened.onKey($event)">
          <thead>
            <tr>
              <th scope="col">Access class</th>
              <th scope="col">Segment</th>
              <th scope="col">Known clients</th>
              <th scope="col">Here now</th>
              <th scope="col" class="second">Reaches</th>
            </tr>
          </thead>
          <tbody>
            @for (each of store.accessClasses(); track each.id) {
              <tr [class.chosen]="opened.id() === each.id" [attr.data-row]="each.id" (click)="opened.open(each.id)">
                <td>
                  <button class="plain name">{{ each.name }}</button>
                </td>
                <td>
                  @if (segmentOf(each); as segment) {
                    @if (store.marks().get(segment.id); as mark) {
                      <il-segment-tag [mark]="mark" />
                    }
                    {{ segment.name }} <span class="mono soft">{{ segment.vlan }}</span>
                  } @else {
                    <span class="bad">{{ each.segment }}, not at this site</span>
                  }
                </td>
                <td>
                  {{ each.members.length }}
                  @if (each.groups; as groups) {
                    <span class="soft">and {{ groups.join(', ') }}</span>
                  }
                  @if (each.otherwise) {
                    <span class="soft">and everybody else</span>
                  }
                </td>
                <td>{{ hereWords(each) }}</td>
                <td class="second">{{ reachWords(each.reach) }}</td>
              </tr>
            }
          </tbody>
        </table>
        @if (store.accessClasses().length === 0) {
          <p class="calm soft">
            No access class here yet. A class gives clients that it lists, or that a RADIUS server or a key names it
            for, a segment, whatever SSID or port they come by, and rules can name it; so do groups of users. Add one,
            then let an SSID (under Wireless) or ports (under Lattice) ask who a client is.
          </p>
        }
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
        } @else if (shown.view() === 'Sessions') {
          <il-session-sheet [mac]="inSight()" (closed)="inSight.set(null)" />
        } @else if (shown.view() === 'Not known') {
        } @else if (opened.isNew()) {
          <il-class-sheet [accessClass]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
        } @else if (opened.row(); as each) {
          <il-class-sheet
            [accessClass]="each"
            [here]="hereOf(each)"
            (closed)="opened.close()"
            (kept)="opened.open($event)"
          />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .name {
      font-weight: 500;
    }
    .calm {
      padding: 6px 14px;
      max-width: 80ch;
    }
    il-class-sheet,
    il-server-sheet {
      display: contents;
    }
    il-segment-tag {
      margin-right: 5px;
    }
    @media (max-width: 720px) {
      .second {
        display: none;
      }
    }
  `,
  providers: [DirectoryStore, HealthStore, RegisterStore, SiteClients, TakenStore, UsersStore],
})
export class EntryPage {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly reachWords = reachWords;
  private readonly facts = inject(SiteClients);
  readonly show = input<string>();
  readonly add = input<string>();
  /** Which view, from the address of the page. */
  readonly as = input<string>();
  protected readonly views = ENTRY_VIEWS;
  protected readonly shown = new EntryViews({ as: this.as, show: this.show, servers: this.store.radiusServers });
  protected readonly server = new OpenedRow({ rows: this.store.radiusServers, show: this.show });
  protected readonly opened = new OpenedRow({ rows: this.store.accessClasses, show: this.show, add: this.add });
  /** MAC address of the client whose session is open. */
  protected readonly inSight = signal<string | null>(null);
  /** Whether the new server is this controller itself. */
  protected readonly own = signal(false);
  /** Whether this controller could be asked and is not. */
  protected readonly mayAnswer = computed(() => !this.store.radiusServers().some(({ own }) => own));
  /** Who asks clients who they are, in words. */
  protected readonly asked = computed(() => {
    const [site, data] = [this.store.site(), this.store.data()];
    if (!site || !data || this.store.accessClasses().length === 0) return '';
    const ssids = this.store
      .ssids()
      .flatMap(({ name, byClass, security }) => (byClass || asksWho(security) ? [`“${name}”`] : []));
    const ports = data.roster.flatMap((device) =>
      sheetFor(device).ports.filter(
        (port) => !isUplink(site, device, port) && portSetting(site, device, port.name).auth !== 'none',
      ),
    ).length;
    const places = [...ssids, ...(ports > 0 ? [`${ports} ${ports === 1 ? 'port' : 'ports'}`] : [])];
    return places.length === 0
      ? 'Nobody asks yet: let an SSID or ports ask who a client is.'
      : `Clients are asked who they are on ${places.join(', ')}.`;
  });
  private readonly clients = computed(
    () => new Map((this.facts.clients() ?? []).filter(({ at }) => at).map((client) => [client.mac, client])),
  );

  /** A new server. @param own whether it is this controller. */
  protected begin(own: boolean): void {
    this.own.set(own);
    if (this.shown.view() !== 'Servers') this.shown.look('Servers');
    this.server.begin();
  }

  protected segmentOf({ segment }: AccessClass) {
    return this.store.site()?.segments.find(({ name }) => name.toLowerCase() === segment.toLowerCase());
  }

  /** Clients here that have the class, as their devices say. */
  protected hereOf = ({ id }: AccessClass): SiteClient[] =>
    [...this.clients().values()].filter(({ classId }) => classId === id);

  protected hereWords(each: AccessClass): string {
    const here = this.hereOf(each);
    if (here.length === 0) return 'nobody';
    const places = [...new Set(here.map(({ at }) => at!.deviceName))];
    return `${here.length}, at ${places.slice(0, 3).join(', ')}${places.length > 3 ? ` and ${places.length - 3} more` : ''}`;
  }
}
