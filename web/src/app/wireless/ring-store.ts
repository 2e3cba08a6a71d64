import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { isKeyEarly, isKeyOver } from '@iron-lattice/core/document';
import { localMoment } from '@iron-lattice/core/rules';
import type { NewRingKey, RingKeyFields, RingKeyView, RingView } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });
/** How often is looked who is on the air with which key, in milliseconds. */
const FOLLOW_MS = 1000;
/** How long it can be brought back from the message that says that keys were taken back. */
const UNDO_MS = 15_000;

/** What a key is at the moment. */
export type KeyState =
  'right' | 'to be rolled out' | 'taken back' | 'not yet' | 'over' | 'leads nowhere here' | 'not asked for';

/** The sheet that is open over keys. */
export type KeySheet = { readonly of: 'key'; readonly id: string } | { readonly of: 'new' | 'many' | 'list' };

/** The keys of one ring, and what is done with them; each change acts at once. */
@Injectable()
export class RingStore {
  private readonly http = inject(HttpClient);
  private readonly snack = inject(MatSnackBar);
  private readonly site = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  /** Id of the SSID that somebody wants to see the keys of. */
  readonly wanted = signal<string | null>(null);
  readonly sheet = signal<KeySheet | null>(null);
  /** Whether keys are in sight: else nobody asks for them. */
  readonly inSight = signal(false);
  /** SSIDs that ask for keys of a ring. */
  readonly rings = computed(() => {
    const all = this.shared.atEstate() ? (this.shared.estate()?.ssids ?? []) : this.site.ssids();
    return all.filter(({ ring }) => ring);
  });
  readonly ssid = computed(() => this.rings().find(({ id }) => id === this.wanted()) ?? this.rings()[0] ?? null);
  private readonly live = liveFetch({
    of: () => (this.inSight() ? this.ssid()?.id : undefined),
    stays: true,
    fetch: (id) => firstValueFrom(this.http.get<RingView>(`/api/rings/${id}`)),
    when: (event) => (event.type === 'ring' && event.ssidId === this.ssid()?.id) || event.type === 'device',
    every: FOLLOW_MS,
  });
  /** Of the ring that is chosen; one that was shown before is none of it. */
  readonly view = computed(() => {
    const view = this.live.value();
    return view?.ssidId === this.ssid()?.id ? view : null;
  });
  readonly problem = this.live.problem;
  readonly keys = computed((): readonly RingKeyView[] => {
    const rank = ({ revokedAt }: RingKeyView): number => (revokedAt === null ? 0 : 1);
    return [...(this.view()?.keys ?? [])].sort((a, b) => rank(a) - rank(b) || collator.compare(a.name, b.name));
  });
  readonly key = computed(() => {
    const sheet = this.sheet();
    return sheet?.of === 'key' ? (this.keys().find(({ id }) => id === sheet.id) ?? null) : null;
  });
  /** Names of the segments that keys lead to where one stands, in lower case; null over all sites, where each site looks them up. */
  readonly there = computed(() => {
    const site = this.site.site();
    const ring = new Set((this.ssid()?.ring ?? []).map((name) => name.toLowerCase()));
    if (!site) return null;
    return new Set(site.segments.map(({ name }) => name.toLowerCase()).filter((name) => ring.has(name)));
  });

  /** Names of the classes that keys may lead to: none where the SSID does not let classes count. */
  readonly classes = computed((): readonly string[] =>
    this.ssid()?.byClass ? (this.shared.estate()?.classes ?? []).map(({ name }) => name) : [],
  );
  /** Names of those that have a segment where one stands, in lower case; null over all sites. */
  private readonly classesThere = computed(() => {
    const site = this.site.site();
    if (!site) return null;
    const segments = new Set(site.segments.map(({ name }) => name.toLowerCase()));
    const here = this.site.accessClasses().filter(({ segment }) => segments.has(segment.toLowerCase()));
    return new Set(this.ssid()?.byClass ? here.map(({ name }) => name.toLowerCase()) : []);
  });

  private url = (rest: string): string => `/api/rings/${this.ssid()!.id}${rest}`;

  /** What each key is at the moment, by id: worked out together, since thousands are shown. */
  private readonly states = computed((): ReadonlyMap<string, KeyState> => {
    const zone = this.site.site()?.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
    const now = localMoment(Date.now(), zone);
    const { live, liveClasses = [] } = this.view() ?? {};
    const lower = (names: readonly string[]): ReadonlySet<string> => new Set(names.map((name) => name.toLowerCase()));
    const seen = {
      now,
      segments: { there: this.there(), live: live ? lower(live) : null },
      classes: { there: this.classesThere(), live: live ? lower(liveClasses) : null },
    };
    const asked = this.view()?.atServers ?? false;
    return new Map(
      this.keys().map((key) => [key.id, asked && key.revokedAt === null ? 'not asked for' : stateAt(key, seen)]),
    );
  });
  readonly stateOf = ({ id }: Pick<RingKeyView, 'id'>): KeyState => this.states().get(id) ?? 'right';

  async add(keys: readonly NewRingKey[]): Promise<readonly string[]> {
    const headers = { 'content-type': 'application/octet-stream' };
    const body = new Blob([JSON.stringify(keys)]);
    const { ids } = await firstValueFrom(this.http.post<{ ids: string[] }>(this.url('/keys'), body, { headers }));
    await this.live.again();
    const { name } = this.ssid()!;
    const then = this.view()?.live ? `The APs that send ${name} are told.` : `Right once ${name} is rolled out.`;
    this.site.say(`${counted(ids.length, 'key')} made. ${then}`);
    return ids;
  }

  /** Changes a key; the message that says so changes it back, the key itself too. */
  async change(
    id: string,
    from: Partial<RingKeyFields>,
    to: Partial<RingKeyFields> & { readonly key?: string },
  ): Promise<void> {
    const { key, ...fields } = to;
    // What was the key before is known to nobody here unless it is asked for before it is another.
    const before = key === undefined ? {} : { key: (await this.reveal([id]))[id]! };
    await this.patch(id, from, to);
    const name = this.keys().find((each) => each.id === id)?.name ?? '';
    this.snack
      .open(`The key of ${name} is changed; APs are told.`, 'Change it back', { duration: UNDO_MS })
      .onAction()
      .subscribe(() => void this.site.attempt(() => this.patch(id, fields, { ...from, ...before })));
  }

  private async patch(id: string, from: object, to: object): Promise<void> {
    await firstValueFrom(this.http.patch(this.url(`/keys/${id}`), { from, to }));
    await this.live.again();
  }

  /** Takes keys back; the message that says so brings them back. */
  async revoke(ids: readonly string[]): Promise<boolean> {
    const done = await this.site.attempt(async () => {
      await firstValueFrom(this.http.post(this.url('/revoke'), { ids }));
      await this.live.again();
    });
    if (!done) return false;
    const message = `${counted(ids.length, 'key')} taken back. Whoever was on the air with ${ids.length === 1 ? 'it' : 'them'} is there no more.`;
    this.snack
      .open(message, 'Bring back', { duration: UNDO_MS })
      .onAction()
      .subscribe(() => void this.restore(ids));
    return true;
  }

  restore(ids: readonly string[]): Promise<boolean> {
    return this.site.attempt(async () => {
      await firstValueFrom(this.http.post(this.url('/restore'), { ids }));
      await this.live.again();
    });
  }

  forgetDevices(id: string): Promise<boolean> {
    return this.site.attempt(async () => {
      await firstValueFrom(this.http.post(this.url(`/keys/${id}/forget-devices`), {}));
      await this.live.again();
    });
  }

  /** The keys themselves; noted in the journal. */
  reveal(ids: readonly string[]): Promise<Readonly<Record<string, string>>> {
    return firstValueFrom(this.http.post<Record<string, string>>(this.url('/reveal'), { ids }));
  }

  listUrl = (): string => this.url('/key-list');
  fileUrl = (): string => this.url(`/psk-file?siteId=${this.site.siteId()}`);
}

/** Names that keys lead to where one stands, and where the SSID is live. */
interface LeadsTo {
  readonly there: ReadonlySet<string> | null;
  readonly live: ReadonlySet<string> | null;
}

/** What a key is. @param seen the moment by the clock where one stands, and the segments and classes that keys lead to. */
function stateAt(
  { revokedAt, from, until, segment, accessClass }: RingKeyView,
  { now, segments, classes }: { readonly now: string; readonly segments: LeadsTo; readonly classes: LeadsTo },
): KeyState {
  if (revokedAt !== null) return 'taken back';
  if (from !== null && isKeyEarly({ from }, now)) return 'not yet';
  if (until !== null && isKeyOver({ until }, now)) return 'over';
  const { there, live } = accessClass === null ? segments : classes;
  const name = (accessClass ?? segment)?.toLowerCase();
  if (name !== undefined && there && !there.has(name)) return 'leads nowhere here';
  return live && (name === undefined || live.has(name)) ? 'right' : 'to be rolled out';
}
