import { randomUUID } from 'node:crypto';
import type { AskedWay, GuestState, GuestWay } from '@iron-lattice/core/guests';
import { MOST_VISIT } from '@iron-lattice/core/intent';
import { openingAt } from '@iron-lattice/core/rules';
import type { GuestWord } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { clock } from '../platform/clock';
import { later } from '../platform/held-connection';
import { note } from '../platform/journal';
import { oneByOne } from '../platform/one-by-one';
import type { CodeService, Redeemed } from './code.service';
import type { LivePortal, LivePortals } from './portals-live';
import type { JustSeen, StandingRow } from './just-seen';
import { OUT, standingSql, stateOf, usesOf, type VisitRow } from './visit-state';

declare module '../platform/bus' {
  interface BusMessages {
    /** Whoever holds lines of devices where these guests are tells them how they stand. */
    guests: { portalId: string; macs: string[] };
  }
}

/** How long changes of visits are gathered before people who look are told, and before devices are, in milliseconds. */
const [GATHER_MS, SOON_MS] = [200, 15];
/** Guests in one message to controllers: it stays far below the octets of a notification. */
const MOST_NAMED = 200;
/** Who asks to be let in, and where. */
export interface Guest {
  readonly portalId: string;
  readonly siteId: string;
  readonly deviceId: string;
  readonly mac: string;
  /** Name of the SSID. */
  readonly place: string;
  readonly language: string;
  /** Version of the terms that it agreed to. */
  readonly terms: string | null;
  /** Minutes after which its visit ends if it takes nothing; null: it goes on. */
  readonly idle: number | null;
}

/** How a guest stands, as its page shows it. */
export interface Standing extends GuestState {
  readonly blocked: boolean;
  /** Whether its device does as it was told. */
  readonly told: boolean;
  readonly begun: number;
}

/** Visits of guests: who is let in, until when, and how much of it they took. */
export class VisitService {
  private readonly telling = new Map<string, NodeJS.Timeout>();
  /** Guests of whom devices are to be told, by portal. */
  private readonly named = new Map<string, Set<string>>();
  private soon: NodeJS.Timeout | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly portals: LivePortals,
    private readonly codes: CodeService,
    private readonly bus: Bus,
    private readonly seen: JustSeen,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Lets a guest in who accepts, unless it is in already, is kept out, or has had what it may have that day. */
  async accept(guest: Guest, live: LivePortal): Promise<void> {
    const { dataADay, minutesADay, visit, rest } = live.portal;
    if (dataADay || minutesADay || rest) {
      const standing = await this.standing(guest.portalId, guest.mac, live);
      if (standing?.why === 'quota' || standing?.why === 'rest') return;
    }
    const until = clock.now() + visit * 60_000;
    const begun = await oneByOne(() => this.begin(guest, 'accept', until));
    if (!begun) return;
    this.say([guest]);
    this.seen.put(guest.portalId, guest.mac, { ...begun, blocked: false });
  }

  /** Lets a guest in who gives a code that is right. */
  async withCode(guest: Guest, typed: string): Promise<Redeemed | { readonly ok: false; readonly why: 'blocked' }> {
    const answer = await oneByOne(() =>
      this.database.transaction(async (transaction) => {
        if (await this.isBlocked(guest.mac, transaction)) return { ok: false, why: 'blocked' } as const;
        const redeemed = await this.codes.redeem(guest.portalId, typed, guest, transaction);
        if (redeemed.ok) await this.begin(guest, 'code', redeemed.until, { codeId: redeemed.codeId }, transaction);
        return redeemed;
      }),
    );
    if (answer.ok) this.say([guest]);
    return answer;
  }

  /** Lets a guest in who said who they are. @returns whether it is in; it may be kept out. Devices are told by `say`, once that is kept. */
  async letIn(
    guest: Guest,
    way: AskedWay | 'user' | 'account',
    until: number,
    askId: string,
    transaction: Transaction,
  ): Promise<boolean> {
    return (await this.begin(guest, way, until, { askId }, transaction)) !== null;
  }

  /** Has a visit that began by first minutes last as long as another. @returns whether it goes on. */
  async prolong(askId: string, ms: number, transaction: Transaction): Promise<boolean> {
    const rows = await this.select(
      `UPDATE visit SET until = begun + :seconds * interval '1 second' WHERE ask_id = :askId AND ended_at IS NULL AND until > :now RETURNING id`,
      { askId, seconds: ms / 1000, now: new Date(clock.now()) },
      transaction,
    );
    return rows.length > 0;
  }

  /** How a guest stands at a portal; null: nobody let it in, or its visit is long over. */
  async standing(portalId: string, mac: string, live: LivePortal): Promise<Standing | null> {
    const [found] = await this.select<StandingRow>(standingSql(':portalId', ':mac'), { portalId, mac });
    return this.standingOf(found, live, mac);
  }

  /** The same for a page: what was seen of the guest a moment ago will do. */
  async glance(portalId: string, mac: string, live: LivePortal): Promise<Standing | null> {
    const seen = this.seen.take(portalId, mac);
    return seen ? this.standingOf(seen, live, mac) : this.standing(portalId, mac, live);
  }

  private async standingOf(found: StandingRow | undefined, live: LivePortal, mac: string): Promise<Standing | null> {
    const { blocked = false } = found ?? {};
    const row = found?.id ? (found as VisitRow) : null;
    if (!row) return blocked ? { ...OUT, blocked, told: true, begun: 0 } : null;
    const uses = await usesOf(this.database, live.portal, [mac]);
    const state = stateOf(row, uses, live);
    return {
      ...state,
      letIn: state.letIn && !blocked,
      blocked,
      told: row.told_at !== null,
      begun: row.begun.getTime(),
    };
  }

  /** What a device is told of guests that are there, in their order. */
  async words(portalId: string, siteId: string, macs: readonly string[]): Promise<GuestWord[]> {
    const live = await this.portals.at(siteId, portalId);
    if (!live) return macs.map((mac) => ({ mac, in: false }));
    const [rows, blocked, uses] = await Promise.all([
      this.select<VisitRow>(
        'SELECT * FROM visit WHERE portal_id = :portalId AND mac = ANY(ARRAY[:macs]) AND ended_at IS NULL',
        { portalId, macs: [...macs] },
      ),
      this.select<{ mac: string }>('SELECT mac FROM guest_block WHERE mac = ANY(ARRAY[:macs])', { macs: [...macs] }),
      usesOf(this.database, live.portal, macs),
    ]);
    const out = new Set(blocked.map(({ mac }) => mac));
    const there = new Map(rows.map((row) => [row.mac, row]));
    return macs.map((mac): GuestWord => {
      const row = there.get(mac);
      if (out.has(mac)) return { mac, in: false };
      if (!row) return { mac, in: false, ...this.opens(live) };
      const { letIn, until, left, resets } = stateOf(row, uses, live);
      // Whoever is known is asked for once more when its visit is over.
      const ends = row.until.getTime();
      const next = resets === null || resets >= ends ? (live.portal.known ? ends : null) : resets;
      const again = next === null ? {} : { again: next };
      const { slow } = live.portal;
      return letIn
        ? { mac, in: true, until, ...(left === null ? {} : { left, ...(slow ? { slow } : {}) }), ...again }
        : { mac, in: false, ...again };
    });
  }

  /** When it is worth asking for somebody who is known and came at an hour at which nobody is let in. */
  private opens({ portal, hours, timeZone }: LivePortal): Pick<GuestWord, 'again'> {
    const opening = hours && portal.known ? openingAt(hours, timeZone, clock.now()) : null;
    return opening && !opening.open && opening.until !== null ? { again: opening.until } : {};
  }

  /** Where guests are, as devices say that ask for them. */
  async seenAt(portalId: string, deviceId: string, macs: readonly string[]): Promise<void> {
    await this.database.query(
      `UPDATE visit SET device_id = :deviceId, told_at = NULL
       WHERE portal_id = :portalId AND mac = ANY(ARRAY[:macs]) AND ended_at IS NULL AND device_id IS DISTINCT FROM :deviceId`,
      { replacements: { portalId, deviceId, macs: [...macs] } },
    );
  }

  /** A device does as it was told of guests. */
  async told(portalId: string, deviceId: string, macs: readonly string[]): Promise<void> {
    const rows = await this.select<{ id: string }>(
      `UPDATE visit SET told_at = now() WHERE portal_id = :portalId AND mac = ANY(ARRAY[:macs]) AND ended_at IS NULL
       AND device_id = :deviceId AND told_at IS NULL RETURNING id`,
      { portalId, deviceId, macs: [...macs] },
    );
    for (const mac of macs) this.seen.forget(portalId, mac);
    if (rows.length > 0) this.changed(portalId);
  }

  /** Ends visits at once. */
  async end(ids: readonly string[], personId: string): Promise<void> {
    await this.change(
      `UPDATE visit SET ended_at = now(), ended_by = :personId WHERE id = ANY(ARRAY[:ids]::uuid[]) AND ended_at IS NULL
       RETURNING portal_id, mac`,
      { ids, personId },
      ['guests.visits-end', {}],
    );
  }

  /** Has visits last longer, from their end or from now. */
  async extend(ids: readonly string[], minutes: number, personId: string): Promise<void> {
    await this.change(
      `UPDATE visit SET until = LEAST(GREATEST(until, now()) + :minutes * interval '1 minute', now() + :most * interval '1 minute')
       WHERE id = ANY(ARRAY[:ids]::uuid[]) AND ended_at IS NULL RETURNING portal_id, mac`,
      { ids, minutes, most: MOST_VISIT, personId },
      ['guests.visits-extend', { minutes }],
    );
  }

  /** Keeps a device out of every portal, or lets it try again. Its visits end with that. */
  async block(mac: string, on: boolean, personId: string): Promise<void> {
    await this.database.transaction(async (transaction) => {
      await this.database.query(
        on
          ? 'INSERT INTO guest_block (mac, person_id) VALUES (:mac, :personId) ON CONFLICT DO NOTHING'
          : 'DELETE FROM guest_block WHERE mac = :mac',
        { replacements: { mac, personId }, transaction },
      );
      const rows = on
        ? await this.select<{ portal_id: string; mac: string }>(
            'UPDATE visit SET ended_at = now(), ended_by = :personId WHERE mac = :mac AND ended_at IS NULL RETURNING portal_id, mac',
            { mac, personId },
            transaction,
          )
        : await this.select<{ portal_id: string; mac: string }>(
            'SELECT DISTINCT portal_id, mac FROM visit WHERE mac = :mac',
            { mac },
            transaction,
          );
      await note(this.database, personId, on ? 'guests.block' : 'guests.unblock', { mac }, transaction);
      transaction.afterCommit(() => this.say(rows.map((row) => ({ portalId: row.portal_id, mac: row.mac }))));
    });
  }

  /** Erases all that is kept of clients: visits, which end with that, what they took, the codes they used. Who is kept out stays so. */
  async erase(macs: readonly string[], transaction: Transaction): Promise<void> {
    const of = { macs: JSON.stringify(macs) };
    const gone = 'WHERE mac IN (SELECT jsonb_array_elements_text(:macs::jsonb))';
    const ended = await this.select<{ portal_id: string; mac: string; ended_at: Date | null }>(
      `DELETE FROM visit ${gone} RETURNING portal_id, mac, ended_at`,
      of,
      transaction,
    );
    for (const table of ['guest_use', 'portal_seat', 'visit_code_device', 'guest_ask'])
      await this.database.query(`DELETE FROM ${table} ${gone}`, { replacements: of, transaction });
    const here = ended.filter(({ ended_at: at }) => at === null);
    transaction.afterCommit(() => this.say(here.map((row) => ({ portalId: row.portal_id, mac: row.mac }))));
  }

  /** Has devices told how guests stand, and people who look at them; those of a moment together. */
  say(guests: readonly { readonly portalId: string; readonly mac: string }[]): void {
    for (const { portalId, mac } of guests) {
      let named = this.named.get(portalId);
      if (!named) this.named.set(portalId, (named = new Set()));
      named.add(mac);
      this.seen.forget(portalId, mac);
      this.changed(portalId);
    }
    if (this.named.size > 0) this.soon ??= later(SOON_MS, () => void this.sendNamed().catch(this.failed));
  }

  private async sendNamed(): Promise<void> {
    this.soon = null;
    const all = [...this.named];
    this.named.clear();
    for (const [portalId, macs] of all) {
      const list = [...macs];
      for (let at = 0; at < list.length; at += MOST_NAMED)
        await this.bus.send('guests', { portalId, macs: list.slice(at, at + MOST_NAMED) });
    }
  }

  private async change(
    sql: string,
    more: Record<string, unknown> & { ids: readonly string[]; personId: string },
    [act, detail]: [string, object],
  ): Promise<void> {
    const rows = await this.select<{ portal_id: string; mac: string }>(sql, { ...more, ids: [...more.ids] });
    if (rows.length === 0) {
      const [there] = await this.select<{ id: string }>(
        'SELECT id FROM visit WHERE id = ANY(ARRAY[:ids]::uuid[]) LIMIT 1',
        { ids: [...more.ids] },
      );
      throw there ? new AppError('visit.over', 'That visit has ended already.') : unknown('visit');
    }
    await note(this.database, more.personId, act, { ...detail, count: rows.length });
    this.say(rows.map((row) => ({ portalId: row.portal_id, mac: row.mac })));
  }

  /**
   * A visit begins; one that goes on at the same portal ends with that, or stays where nothing but a press asks for another.
   * One statement: hundreds begin a second.
   * @returns the visit that began; null where none did: the device may be kept out, or in already.
   * @throws UniqueConstraintError when the same guest was let in just now by another press.
   */
  private async begin(
    guest: Guest,
    way: GuestWay,
    until: number,
    { codeId = null, askId = null }: { readonly codeId?: string | null; readonly askId?: string | null } = {},
    transaction?: Transaction,
  ): Promise<VisitRow | null> {
    const [begun] = await this.select<VisitRow>(
      `WITH ended AS (UPDATE visit SET ended_at = now() WHERE portal_id = :portalId AND mac = :mac AND ended_at IS NULL
         AND (:way <> 'accept' OR until <= :now) RETURNING 1)
       INSERT INTO visit (id, portal_id, site_id, device_id, place, mac, way, code_id, ask_id, language, terms, until, idle)
       SELECT :id, :portalId, :siteId, :deviceId, :place, :mac, :way, :codeId, :askId, :language, :terms, :until, :idle::int
       FROM (SELECT count(*) FROM ended) first WHERE NOT EXISTS (SELECT 1 FROM guest_block WHERE mac = :mac)
         AND (:way <> 'accept' OR NOT EXISTS (SELECT 1 FROM visit WHERE portal_id = :portalId AND mac = :mac AND ended_at IS NULL AND until > :now))
       RETURNING *`,
      { ...guest, id: randomUUID(), way, codeId, askId, until: new Date(until), now: new Date(clock.now()) },
      transaction,
    );
    return begun ?? null;
  }

  private async isBlocked(mac: string, transaction?: Transaction): Promise<boolean> {
    const rows = await this.select('SELECT 1 FROM guest_block WHERE mac = :mac', { mac }, transaction);
    return rows.length > 0;
  }

  /** People who look hear of many changes together. */
  private changed(portalId: string): void {
    if (this.telling.has(portalId)) return;
    this.telling.set(
      portalId,
      setTimeout(() => {
        this.telling.delete(portalId);
        void this.bus.send('live', { type: 'guests', portalId, what: 'visits' }).catch(this.failed);
      }, GATHER_MS),
    );
  }

  close(): void {
    if (this.soon) clearTimeout(this.soon);
    for (const timer of this.telling.values()) clearTimeout(timer);
    this.telling.clear();
  }

  private select<T extends object>(
    sql: string,
    replacements: Record<string, unknown>,
    transaction?: Transaction,
  ): Promise<T[]> {
    return this.database.query<T>(sql, {
      replacements,
      type: QueryTypes.SELECT,
      ...(transaction ? { transaction } : {}),
    });
  }
}
