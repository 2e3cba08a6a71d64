import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { RouterLink } from '@angular/router';
import { isDeviceName, userFlaws, type UserFields, type UserView } from '@iron-lattice/core/entry';
import { Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { EditForm } from '../shell/edit-form';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { newUserOf, userFieldsOf, userTextOf, type UserText } from './user-text';
import { CertificateList } from './certificates/certificate-list';
import { CertificateStore } from './certificates/certificate-store';
import { UserSites } from './user-sites';
import { UsersStore } from './users-store';

const FIELDS = ['name', 'password', 'groups', 'until', 'most', 'note'];

/** A user's sheet, new or there already: what is said here acts at once. */
@Component({
  selector: 'il-user-sheet',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    RouterLink,
    Cell,
    CertificateList,
    Sheet,
    TextCell,
    UserSites,
  ],
  template: `
    <il-sheet
      [focusFirst]="user() === null"
      [heading]="user()?.name ?? 'New user'"
      [note]="note()"
      (closed)="closed.emit()"
    >
      @if (bench(); as link) {
        <a actions mat-button [routerLink]="link" [queryParams]="{ as: 'gets', who: user()!.name }"
          >What they get here</a
        >
      }
      @if (session.mayChange() && user(); as user) {
        <button actions mat-stroked-button (click)="remove()">Take away</button>
      }
      @if (session.mayChange()) {
        <button actions mat-flat-button type="submit" form="user-fields" [disabled]="form.busy() || !form.differs()">
          {{ user() ? 'Change it now' : 'Add user' }}
        </button>
      }
      <form id="user-fields" (ngSubmit)="keep()">
        <div class="cells">
          <il-text-cell
            label="Signs in as"
            for="user-name"
            [hint]="user() ? '' : 'A name, or a device’s MAC address: that needs no password, and proves nothing'"
            [mono]="true"
            example="marn.ellis"
            [flaw]="problem()?.of('name')"
            [readonly]="!session.mayChange()"
            [value]="text().name"
            (typed)="form.put({ name: $event })"
          />
          @if (!user() && !device()) {
            <il-text-cell
              label="Password"
              for="user-password"
              kind="password"
              autocomplete="new-password"
              hint="Empty: one is drawn, and shown once"
              [flaw]="problem()?.of('password')"
              [value]="text().password"
              (typed)="form.put({ password: $event })"
            />
          }
          <il-text-cell
            label="Groups"
            for="user-groups"
            [hint]="groupHint()"
            [example]="groups() || 'Deck; Engine'"
            [flaw]="problem()?.of('groups')"
            [readonly]="!session.mayChange()"
            [value]="text().groups"
            (typed)="form.put({ groups: $event })"
          />
          <il-text-cell
            label="Until, its last day"
            for="user-until"
            hint="By the clock of the site they come by; empty: no end"
            [mono]="true"
            example="2026-12-31"
            [flaw]="problem()?.of('until')"
            [readonly]="!session.mayChange()"
            [value]="text().until"
            (typed)="form.put({ until: $event })"
          />
          @if (!device()) {
            <il-text-cell
              label="Devices at most"
              for="user-most"
              hint="Empty: any number"
              [mono]="true"
              [flaw]="problem()?.of('most')"
              [readonly]="!session.mayChange()"
              [value]="text().most"
              (typed)="form.put({ most: $event })"
            />
          }
          <il-cell label="For the time being">
            <mat-checkbox
              [checked]="text().off"
              [disabled]="!session.mayChange()"
              (change)="form.put({ off: $event.checked })"
              >let in nowhere</mat-checkbox
            >
          </il-cell>
          <il-text-cell
            label="Note"
            for="user-note"
            size="wide"
            [flaw]="problem()?.of('note')"
            [readonly]="!session.mayChange()"
            [value]="text().note"
            (typed)="form.put({ note: $event })"
          />
          @if (user(); as user) {
            @if (!device() && session.mayChange()) {
              <il-text-cell
                label="Another password"
                for="user-next"
                kind="password"
                autocomplete="new-password"
                hint="Nobody can look up the one there is. Empty: one is drawn, and shown once"
                [flaw]="passwordFlaw()"
                [value]="next()"
                (typed)="next.set($event)"
              >
                <button beside mat-button type="button" (click)="setPassword()">
                  {{ next() === '' ? 'Draw another' : 'Set it' }}
                </button>
              </il-text-cell>
            }
            @if (!device()) {
              <il-cell label="Devices it came with" size="wide">
                <ul class="devices">
                  @for (each of user.devices; track each.mac) {
                    <li>
                      <span class="mono">{{ each.mac }}</span>
                      <span class="soft">{{ each.where }}, {{ each.lastAt.slice(0, 10) }}</span>
                      @if (session.mayChange()) {
                        <button mat-button type="button" (click)="store.forgetDevices(user.id, each.mac)">
                          Forget
                        </button>
                      }
                    </li>
                  } @empty {
                    <li class="soft">None yet.</li>
                  }
                </ul>
              </il-cell>
            }
          }
          @if (user(); as user) {
            @if (user.refusals.length > 0) {
              <il-cell label="Turned away in the last week" size="full">
                <ul class="devices">
                  @for (each of user.refusals; track $index) {
                    <li>
                      <span class="caution">{{ each.count }} × {{ each.why }}</span>
                      <span class="soft">
                        at {{ each.where }}{{ each.mac === '' ? '' : ', with ' + each.mac }}, last
                        {{ each.lastAt.slice(0, 16).replace('T', ' ') }} UTC
                      </span>
                    </li>
                  }
                </ul>
              </il-cell>
            }
            <il-certificate-list [user]="user" />
            <il-user-sites [user]="user" />
          }
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .devices {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    .devices li {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 0 8px;
    }
  `,
  providers: [CertificateStore],
})
export class UserSheet {
  protected readonly store = inject(UsersStore);
  private readonly site = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly user = input.required<UserView | null>();
  readonly closed = output<void>();

  /** Where it is told what a user gets at the site in front; null: none is. */
  protected readonly bench = computed(() => {
    const siteId = this.site.siteId();
    return this.user() && siteId && !this.shared.atEstate() ? ['/sites', siteId, 'bench'] : null;
  });
  protected readonly form = new EditForm<UserView, UserText>({
    kept: () => this.user(),
    idOf: ({ id }) => id,
    textOf: userTextOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly device = computed(() => isDeviceName(this.user()?.name ?? this.text().name));
  protected readonly groups = computed(() => this.store.groups().slice(0, 3).join('; '));
  /** A password that is to be set, of the user in front. */
  protected readonly next = anewFor<string>(
    () => this.user()?.id,
    () => '',
  );
  protected readonly passwordFlaw = anewFor<string>(
    () => this.next(),
    () => '',
  );
  protected readonly groupHint = computed(() => {
    const user = this.user();
    const [first, ...more] = user ? this.store.classesOf(user) : [];
    if (first === undefined)
      return user
        ? 'No access class has one of these groups here: open a class, and name the group there'
        : 'The first that an access class has decides which class is theirs';
    return this.shared.atEstate() && more.length > 0
      ? `Lead to ${[first, ...more].join(', ')}, by site`
      : `Lead to ${first}`;
  });
  protected readonly note = computed(() => {
    const user = this.user();
    if (!user) return 'Kept by this controller; it acts at once, wherever sites ask it.';
    return user.lastAt === null
      ? `Made by ${user.by}; not let in yet.`
      : `Made by ${user.by}; last let in on ${user.lastAt.slice(0, 10)}.`;
  });

  protected async keep(): Promise<void> {
    const [user, text] = [this.user(), this.text()];
    if (!this.form.differs()) return;
    const flaws = userFlaws(userFieldsOf(text), user ? null : newUserOf(text).password);
    if (flaws.length > 0) return this.problem.set(new Problem('user.refused', flaws[0]!.message, flaws));
    await this.form.send(async () => {
      if (user) {
        const { from, to } = this.form.change<UserFields>(userFieldsOf(text), (each) => each);
        return this.store.change(this.form.seen() ?? user, from, to);
      }
      const id = await this.store.add([newUserOf(text)]);
      if (this.store.sheet()?.of === 'new') this.store.sheet.set({ of: 'user', id });
    });
  }

  protected async setPassword(): Promise<void> {
    const user = this.user();
    if (!user) return;
    const done = await this.site.attempt(() => this.store.setPassword(user, this.next()));
    if (done) this.next.set('');
  }

  protected async remove(): Promise<void> {
    if (await this.store.remove([this.user()!.id])) this.closed.emit();
  }
}
