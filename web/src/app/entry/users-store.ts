import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatSnackBar } from '@angular/material/snack-bar';
import {
  classOfGroups,
  groupClassesAt,
  type NewUser,
  type UserFields,
  type UsersView,
  type UserView,
} from '@iron-lattice/core/entry';
import { localMoment } from '@iron-lattice/core/rules';
import { filter, firstValueFrom, Subject, takeUntil } from 'rxjs';
import { LiveEvents } from '../shell/live-events';
import { liveFetch } from '../shell/live-fetch';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';

/** How often users are followed, and how long it can be brought back from the message that says that they were taken away, in milliseconds. */
const [FOLLOW_MS, UNDO_MS] = [1000, 15_000];

/** What a user is at the moment. */
export type UserState = 'let in' | 'no class here' | 'nobody asks' | 'over' | 'off';

/** The sheet that is open over users. */
export type UserSheetOf =
  | { readonly of: 'user'; readonly id: string }
  | { readonly of: 'new' | 'list' | 'directory' | 'removed' }
  /** Passwords that were just made, and are shown this once. */
  | { readonly of: 'passwords'; readonly users: readonly (UserFields & { readonly password: string })[] };

/** Users that the controller keeps, and what is done with them; each change acts at once. */
@Injectable()
export class UsersStore {
  private readonly http = inject(HttpClient);
  private readonly snack = inject(MatSnackBar);
  private readonly site = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly sheet = signal<UserSheetOf | null>(null);
  /** Whether users are in sight: else nobody asks for them. */
  readonly inSight = signal(false);
  /** How far a list is that is being made; null: none is. */
  readonly making = signal<{ readonly done: number; readonly of: number } | null>(null);
  private token = '';
  private readonly cancelled = new Subject<void>();
  private readonly live = liveFetch({
    of: () => (this.inSight() ? 'all' : undefined),
    stays: true,
    fetch: () => firstValueFrom(this.http.get<UsersView>('/api/users')),
    when: (event) => event.type === 'users',
    every: FOLLOW_MS,
  });
  readonly view = this.live.value;
  readonly problem = this.live.problem;
  readonly users = computed(() => this.view()?.users ?? []);
  readonly user = computed(() => {
    const sheet = this.sheet();
    return sheet?.of === 'user' ? (this.users().find(({ id }) => id === sheet.id) ?? null) : null;
  });
  /** Names of all groups that users or classes have, each once. */
  readonly groups = computed(() => {
    const names = new Map<string, string>();
    const of = [...(this.estate()?.classes ?? []), ...this.users()].flatMap(({ groups }) => groups ?? []);
    for (const name of of) if (!names.has(name.toLowerCase())) names.set(name.toLowerCase(), name);
    return [...names.values()].sort();
  });
  private readonly estate = computed(() => (this.shared.atEstate() ? this.shared.estate() : this.site.data()?.estate));

  constructor() {
    inject(LiveEvents)
      .all.pipe(
        filter((event) => event.type === 'users-made'),
        takeUntilDestroyed(),
      )
      .subscribe((event) => {
        if (event.token === this.token && this.making()) this.making.set({ done: event.done, of: event.of });
      });
  }

  /** Whether sites where one stands ask this controller at all, in the draft; all of them over all sites. */
  readonly asked = computed(() => {
    const servers = this.shared.atEstate() ? (this.shared.estate()?.radius ?? []) : this.site.radiusServers();
    return servers.some(({ own }) => own);
  });

  /** Classes of users, by id, in the draft: here, or at any site. Worked out together, since thousands are shown. */
  private readonly classes = computed((): ReadonlyMap<string, readonly string[]> => {
    const estate = this.estate();
    const siteId = this.site.site()?.id;
    if (!estate) return new Map();
    const all = (estate.classes ?? []).flatMap(({ name, groups }) => (groups ? [{ name, groups }] : []));
    const here = this.shared.atEstate() || siteId === undefined ? null : groupClassesAt(estate, siteId);
    const known = new Map<string, readonly string[]>();
    return new Map(
      this.users().map(({ id, groups }) => {
        const key = groups.join(';').toLowerCase();
        let found = known.get(key);
        if (!found) {
          const one = here && classOfGroups(groups, here);
          found = here
            ? one === null
              ? []
              : [one]
            : all.flatMap((each) => (classOfGroups(groups, [each]) ? [each.name] : []));
          known.set(key, found);
        }
        return [id, found];
      }),
    );
  });
  /** Classes that groups lead to: here, or at any site. */
  classesOfGroups(groups: readonly string[]): readonly string[] {
    const [estate, siteId] = [this.estate(), this.site.site()?.id];
    if (!estate) return [];
    if (this.shared.atEstate() || siteId === undefined)
      return (estate.classes ?? []).flatMap(({ name, groups: of }) =>
        of && classOfGroups(groups, [{ name, groups: of }]) ? [name] : [],
      );
    return [classOfGroups(groups, groupClassesAt(estate, siteId)) ?? []].flat();
  }
  /** Of where that is. */
  placeWords = (): string => (this.shared.atEstate() ? ', by site' : ` at ${this.site.site()?.name ?? 'this site'}`);

  readonly classesOf = ({ id }: Pick<UserView, 'id'>): readonly string[] => this.classes().get(id) ?? [];

  private readonly today = computed(() => {
    const zone = this.site.site()?.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
    this.view();
    return localMoment(Date.now(), zone).slice(0, 10);
  });
  stateOf(user: UserView): UserState {
    if (user.off) return 'off';
    if (user.until !== null && this.today() > user.until) return 'over';
    if (this.classesOf(user).length === 0) return 'no class here';
    return this.asked() ? 'let in' : 'nobody asks';
  }

  /** Makes users; passwords that were drawn are shown next. @returns the id of the first. */
  async add(users: readonly NewUser[]): Promise<string> {
    this.token = crypto.randomUUID();
    this.making.set({ done: 0, of: users.length });
    try {
      const headers = { 'content-type': 'application/octet-stream' };
      const asked = this.http.post<{ ids: string[]; drawn: Record<number, string> }>(
        `/api/users?token=${this.token}`,
        new Blob([JSON.stringify(users)]),
        { headers },
      );
      const made = await firstValueFrom(asked.pipe(takeUntil(this.cancelled)), { defaultValue: null });
      if (!made) throw new Error('It was called off.');
      await this.live.again();
      const drawn = Object.entries(made.drawn).map(([row, password]) => ({ ...users[Number(row)]!, password }));
      if (drawn.length > 0) this.sheet.set({ of: 'passwords', users: drawn });
      else this.site.say(`${counted(made.ids.length, 'user')} made. They can sign in at once.`);
      return made.ids[0]!;
    } finally {
      this.making.set(null);
    }
  }

  /** Whoever makes a long list waits no more: nothing of it is made. */
  cancel(): void {
    this.cancelled.next();
  }

  /** Changes a user; the message that says so changes it back. */
  async change(user: UserView, from: Partial<UserFields>, to: Partial<UserFields>): Promise<void> {
    await this.patch(user.id, user.version, to);
    this.snack
      .open(`${to.name ?? user.name} is changed.`, 'Change it back', { duration: UNDO_MS })
      .onAction()
      .subscribe(() => {
        const now = this.users().find(({ id }) => id === user.id);
        if (now) void this.site.attempt(() => this.patch(user.id, now.version, from));
      });
  }

  private async patch(id: string, version: number, to: Partial<UserFields>): Promise<void> {
    await firstValueFrom(this.http.patch(`/api/users/${id}`, { version, to }));
    await this.live.again();
  }

  /** Gives a user another password; one that was drawn is shown next. */
  async setPassword(user: UserView, password: string): Promise<void> {
    const url = `/api/users/${user.id}/password`;
    const { drawn } = await firstValueFrom(this.http.post<{ drawn: string | null }>(url, { password }));
    await this.live.again();
    if (drawn !== null) this.sheet.set({ of: 'passwords', users: [{ ...user, password: drawn }] });
    else this.site.say(`${user.name} has another password; the one before is none any more.`);
  }

  /** Takes users away; the message that says so brings them back. */
  async remove(ids: readonly string[]): Promise<boolean> {
    if (!(await this.posts('/api/users/remove', { ids }))) return false;
    this.snack
      .open(`${counted(ids.length, 'user')} taken away: let in no more.`, 'Bring back', { duration: UNDO_MS })
      .onAction()
      .subscribe(() => void this.restore(ids));
    return true;
  }

  restore = (ids: readonly string[]): Promise<boolean> => this.posts('/api/users/restore', { ids });

  forgetDevices = (id: string, mac?: string): Promise<boolean> =>
    this.posts(`/api/users/${id}/forget-devices`, mac === undefined ? {} : { mac });

  private posts(url: string, body: object): Promise<boolean> {
    return this.site.attempt(async () => {
      await firstValueFrom(this.http.post(url, body));
      await this.live.again();
    });
  }
}
