import { Component, DestroyRef, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { isDeviceName, userTable, type UserView } from '@iron-lattice/core/entry';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { saveTable } from '../ui/export-rows';
import { DirectoryStore } from './directory/directory-store';
import { UsersStore, type UserState } from './users-store';

const TONES: Readonly<Record<UserState, string>> = {
  'let in': 'good',
  'no class here': 'caution',
  'nobody asks': 'caution',
  over: 'soft',
  off: 'soft',
};

/** Users that the controller keeps: who may come in, as what, until when, with what. */
@Component({
  selector: 'il-users-view',
  imports: [MatButtonModule, DataTable],
  template: `
    <div class="bar">
      <span class="soft" role="status">{{ words() }}</span>
      @if (session.mayChange() && store.view() && !store.asked()) {
        <span class="caution">{{
          shared.atEstate() ? 'No site asks this controller yet.' : 'This site does not ask this controller yet.'
        }}</span>
        <button mat-button (click)="wanted.emit()">Have it asked</button>
      }
      @if (shut(); as why) {
        <span class="bad" role="alert">It does not answer: {{ why }}.</span>
      }
      <span class="grow"></span>
      @if (session.mayChange()) {
        <button mat-button (click)="store.sheet.set({ of: 'removed' })">Taken away</button>
      }
      <button mat-button (click)="store.sheet.set({ of: 'directory' })" [class.bad]="directoryBad()">
        {{ directoryWords() }}
      </button>
      @if (session.mayChange()) {
        @if (picked().size > 0) {
          <button mat-stroked-button (click)="remove()">Take away {{ picked().size }}</button>
        }
        <button mat-button [disabled]="store.users().length === 0" (click)="save()">
          {{ picked().size > 0 ? picked().size + ' as CSV' : 'All as CSV' }}
        </button>
        <button mat-stroked-button (click)="store.sheet.set({ of: 'list' })">Bring a list</button>
        <button mat-flat-button (click)="store.sheet.set({ of: 'new' })">Add user</button>
      }
    </div>
    <il-data-table
      label="Users"
      remember="entry-users"
      [rows]="store.users()"
      [columns]="columns()"
      [key]="key"
      [name]="name"
      [pickable]="session.mayChange()"
      [(picked)]="picked"
      [shown]="store.user()?.id ?? null"
      (opened)="store.sheet.set({ of: 'user', id: $event.id })"
    >
      <span empty>{{
        store.problem()?.message ??
          (store.view()
            ? 'No user yet. Add people who sign in by name and password, and devices by their MAC addresses; their groups say which access class is theirs. They act at once, wherever sites ask this controller.'
            : 'Asking…')
      }}</span>
    </il-data-table>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 10px;
      padding: 0 14px 8px;
      flex: none;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class UsersView {
  protected readonly store = inject(UsersStore);
  protected readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  private readonly directory = inject(DirectoryStore);
  protected readonly directoryBad = computed(() => Boolean(this.directory.view()?.health?.fault));
  protected readonly directoryWords = computed(() => {
    const view = this.directory.view();
    if (!view) return 'Ask a directory';
    if (view.fields.off) return 'Directory: not asked';
    return this.directoryBad() ? 'Directory: does not answer' : 'Directory: asked besides';
  });
  /** Somebody wants sites to ask this controller. */
  readonly wanted = output<void>();
  protected readonly picked = signal<ReadonlySet<string>>(new Set());
  protected readonly key = ({ id }: UserView): string => id;
  protected readonly name = ({ name }: UserView): string => name;
  protected readonly words = computed(() => {
    const users = this.store.users();
    const devices = users.filter(({ name }) => isDeviceName(name)).length;
    const people = counted(users.length - devices, 'person', 'people');
    return this.store.view() ? `${people}, ${counted(devices, 'device')}${this.turnedAway()}` : 'Asking…';
  });
  /** How often somebody was turned away this week, by why. */
  private turnedAway(): string {
    const counts = new Map<string, number>();
    for (const { refusals } of this.store.users())
      for (const { why, count } of refusals) {
        const plain = why.replace(/ on \d{4}-\d\d-\d\d$/, '').replace(/\d+/g, 'some');
        counts.set(plain, (counts.get(plain) ?? 0) + count);
      }
    const most = [...counts].sort((a, b) => b[1] - a[1]).slice(0, 3);
    return most.length === 0 ? '' : `; turned away this week: ${most.map(([why, n]) => `${n} × ${why}`).join(', ')}`;
  }
  protected readonly shut = computed(() => {
    const answering = this.store.view()?.answering;
    return answering?.port === null ? answering.why : '';
  });

  protected readonly columns = computed((): readonly TableColumn<UserView>[] => [
    { key: 'name', title: 'User', text: ({ name }) => name, width: 130, phone: true },
    {
      ...{ key: 'state', title: 'Is', width: 100, groups: true, phone: true },
      text: (user) =>
        this.shared.atEstate() && this.store.stateOf(user) === 'no class here' ? 'no class' : this.store.stateOf(user),
      tone: (user) => TONES[this.store.stateOf(user)],
    },
    {
      ...{ key: 'class', title: this.shared.atEstate() ? 'Classes' : 'Class here', width: 110, groups: true },
      text: (user) => this.store.classesOf(user).join(', '),
    },
    { key: 'groups', title: 'Groups', text: ({ groups }) => groups.join('; '), width: 120, groups: true },
    {
      ...{ key: 'devices', title: 'Devices', width: 66, mono: true },
      text: ({ devices, most }) => `${devices.length}${most === null ? '' : ` of ${most}`}`,
      order: ({ devices }) => devices.length,
    },
    {
      ...{ key: 'last', title: 'Last let in', width: 130, mono: true, phone: true },
      text: ({ lastAt }) => (lastAt === null ? '' : moment(lastAt)),
    },
    {
      ...{ key: 'refused', title: 'Turned away', width: 86, mono: true },
      text: ({ refused }) => (refused === 0 ? '' : String(refused)),
      order: ({ refused }) => refused,
      tone: () => 'caution',
    },
    { key: 'until', title: 'Until', text: ({ until }) => until ?? '', width: 96, mono: true },
    { key: 'note', title: 'Note', text: ({ note }) => note, width: 110 },
    { key: 'by', title: 'By', text: ({ by }) => by, width: 80, hidden: true, groups: true },
    { key: 'at', title: 'Made', text: ({ at }) => moment(at), width: 130, hidden: true, mono: true },
  ]);

  constructor() {
    this.store.inSight.set(true);
    inject(DestroyRef).onDestroy(() => this.store.inSight.set(false));
  }

  protected async remove(): Promise<void> {
    if (await this.store.remove([...this.picked()])) this.picked.set(new Set());
  }

  protected async save(): Promise<void> {
    const picked = this.picked();
    const users = this.store.users().filter(({ id }) => picked.size === 0 || picked.has(id));
    await saveTable('users', userTable(users));
  }
}

/** A moment by the clock of whoever looks. */
function moment(at: string): string {
  const date = new Date(at);
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())} ${two(date.getHours())}:${two(date.getMinutes())}`;
}
