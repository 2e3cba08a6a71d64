import { randomUUID } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import {
  boundFlaw,
  MOST_KEY_DEVICES,
  MOST_KEYS,
  ringKeyFlaws,
  type NewRingKey,
  type RingKeyFields,
  type RingKeyView,
  type RingView,
} from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { SecretService } from '../intent/secret.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import { boundFlaws, boundIn } from './key-bound';
import { keyRefusal, takenFlaws } from './key-refusal';
import type { KeyRow, MasterRow } from './ring-rows';

declare module '../platform/bus' {
  interface BusMessages {
    /** Keys of a ring changed: whoever holds lines of APs that ask for them tells these. */
    ring: { ssidId: string };
  }
}

/** Revoked keys of a ring that are remembered, so that APs which were away are told, and that they can be brought back. */
const MOST_REVOKED = 10_000;
/** Keys that are sealed before others have their turn. */
const AT_ONCE = 500;
/** Devices of a key that are told. */
const MOST_TOLD = 50;

/** What of a key may be changed, as it was seen and as it is to be. */
export interface KeyChange {
  readonly from: Partial<RingKeyFields>;
  readonly to: Partial<RingKeyFields> & { readonly key?: string };
}

const COLUMNS = {
  name: 'name',
  segment: 'segment',
  accessClass: 'access_class',
  macs: 'macs',
  most: 'most',
  from: 'starts',
  until: 'ends',
  note: 'note',
};

/** Addresses as they are handed over. */
const MACS = 'ARRAY(SELECT jsonb_array_elements_text(:macs::jsonb))';

/** Keys of rings: kept beside intent, they act at once (decision 0010). */
export class RingService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly secrets: SecretService,
    private readonly bus: Bus,
    /** How far APs have a ring: those that ask for it, and those that have all. */
    private readonly told: (ssidId: string, at: number) => Promise<Pick<RingView, 'aps' | 'told'>>,
  ) {}

  /** A ring with its keys by name, the revoked ones last; without the keys themselves. */
  async get(ssidId: string): Promise<RingView> {
    const [rows, ring, given, now, live, masters] = await Promise.all([
      this.select<Omit<KeyRow, 'sealed' | 'at'> & { by: string }>(
        `SELECT k.id, k.name, k.segment, k.access_class, k.macs, k.most, k.starts, k.ends, k.note, k.made_at, k.revoked_at, p.name AS by FROM ring_key k JOIN person p ON p.id = k.person_id WHERE k.ssid_id = :ssidId
         ORDER BY k.revoked_at DESC NULLS FIRST, k.name LIMIT ${MOST_KEYS + MOST_REVOKED}`,
        { ssidId },
      ),
      this.select<{ at: string }>('SELECT at FROM ring WHERE ssid_id = :ssidId', { ssidId }),
      this.select<{ key_id: string; macs: string[] }>(
        `SELECT d.key_id, (array_agg(d.mac ORDER BY d.first_at))[1:${MOST_TOLD}] AS macs FROM ring_device d
         JOIN ring_key k ON k.id = d.key_id WHERE k.ssid_id = :ssidId GROUP BY d.key_id`,
        { ssidId },
      ),
      this.select<{ key: string; mac: string }>(
        `SELECT c->>'key' AS key, c->>'mac' AS mac FROM device d, jsonb_array_elements(d.report->'clients') c
         WHERE d.online AND d.rings ? :ssidId AND c ? 'key'`,
        { ssidId },
      ),
      this.intents.live(),
      this.select<{ name: string | null; count: number }>(
        `SELECT master_of AS name, count(*)::int AS count FROM ring_key WHERE ssid_id = :ssidId AND revoked_at IS NULL
         AND master IS NOT NULL GROUP BY master_of`,
        { ssidId },
      ),
    ]);
    const devices = new Map(given.map(({ key_id, macs }) => [key_id, macs]));
    const onAir = new Map<string, string[]>();
    for (const { key, mac } of now) onAir.set(key, [...(onAir.get(key) ?? []), mac]);
    const at = Number(ring[0]?.at ?? 0);
    const ssid = live.intent.estate.ssids.find(({ id }) => id === ssidId);
    const atServers = ssid?.ring !== null && ssid?.keysAt === 'servers';
    return {
      ssidId,
      live: ssid?.ring ? [ssid.segment, ...ssid.ring] : null,
      liveClasses: ssid?.byClass ? (live.intent.estate.classes ?? []).map(({ name }) => name) : [],
      atServers,
      masters: masters.find(({ name }) => name === ssid?.name)?.count ?? 0,
      keys: rows.map((row) => ({
        ...fieldsOf(row),
        id: row.id,
        by: row.by,
        at: row.made_at.toISOString(),
        revokedAt: row.revoked_at?.toISOString() ?? null,
        devices: devices.get(row.id) ?? [],
        now: onAir.get(row.id) ?? [],
      })) satisfies RingKeyView[],
      // APs that were told keys before may still be there in what they came to, and hold none of them.
      ...(atServers ? { aps: 0, told: 0 } : await this.told(ssidId, at)),
    };
  }

  /**
   * Makes keys that were looked at, all or none. @returns their ids.
   * @throws AppError `ring.refused` where a name or a key is another's already, by row.
   */
  async add(ssidId: string, keys: readonly NewRingKey[], personId: string): Promise<string[]> {
    const made: (NewRingKey & { id: string; sealed: Buffer; print: string })[] = [];
    for (const [i, key] of keys.entries()) {
      const id = randomUUID();
      const [sealed, print] = [this.secrets.seal(id, key.key), this.print(ssidId, key.key)];
      made.push({ ...key, id, name: key.name.trim(), sealed, print });
      if (i % AT_ONCE === AT_ONCE - 1) await setImmediate(); // others have their turn
    }
    await this.change(ssidId, made.length, personId, async (first, transaction) => {
      const taken = await this.select<{ name: string; print: string }>(
        `SELECT lower(name) AS name, print FROM ring_key WHERE ssid_id = :ssidId AND revoked_at IS NULL
         AND (print = ANY(ARRAY[:prints]) OR lower(name) = ANY(ARRAY[:names]))`,
        { ssidId, prints: made.map(({ print }) => print), names: made.map(({ name }) => name.toLowerCase()) },
        transaction,
      );
      const flaws =
        taken.length > 0 ? takenFlaws(made, taken) : await boundFlaws(this.database, ssidId, made, transaction);
      if (flaws.length > 0) throw keyRefusal(flaws, made.length > 1);
      await this.database.query(
        `INSERT INTO ring_key (id, ssid_id, name, sealed, print, segment, access_class, macs, most, starts, ends, note, at, person_id)
         SELECT r.id, :ssidId, r.name, decode(r.sealed, 'base64'), r.print, r.segment, r.access_class, r.macs, r.most, r.starts, r.ends, r.note,
           :first + r.n, :personId
         FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, name text, sealed text, print text, segment text, access_class text, macs text[], most int,
           starts text, ends text, note text, n int)`,
        {
          replacements: {
            ...{ ssidId, personId, first },
            rows: JSON.stringify(
              made.map(({ id, name, sealed, print, segment, accessClass, macs, most, from, until, note: why }, n) => {
                const plain = { id, name, print, segment, macs, most, starts: from, ends: until, note: why, n };
                return { ...plain, access_class: accessClass, sealed: sealed.toString('base64') };
              }),
            ),
          },
          transaction,
        },
      );
      return { act: 'ring.add', detail: { count: made.length, names: made.slice(0, 20).map(({ name }) => name) } };
    });
    return made.map(({ id }) => id);
  }

  /** Changes what is said of a key, or the key itself. @throws AppError `ring.changed` where somebody was first. */
  async set(ssidId: string, id: string, { from, to }: KeyChange, personId: string): Promise<void> {
    await this.change(ssidId, 1, personId, async (at, transaction) => {
      const [row] = await this.select<KeyRow>(
        'SELECT * FROM ring_key WHERE ssid_id = :ssidId AND id = :id AND revoked_at IS NULL',
        { ssidId, id },
        transaction,
      );
      if (!row) throw unknown('key');
      const { key, ...said } = to;
      const now = fieldsOf(row);
      const seen = Object.entries(from).every(
        ([field, value]) => JSON.stringify(now[field as keyof RingKeyFields]) === JSON.stringify(value),
      );
      if (!seen) throw new AppError('ring.changed', 'Somebody changed this key meanwhile. Look at it again.');
      const next: RingKeyFields = { ...now, ...said };
      const flaws = ringKeyFlaws(next, key);
      if (flaws.length > 0) throw new AppError('ring.refused', flaws[0]!.message, flaws);
      const others = await this.select<{ name: string; print: string }>(
        `SELECT lower(name) AS name, print FROM ring_key WHERE ssid_id = :ssidId AND id <> :id AND revoked_at IS NULL
         AND (lower(name) = :name OR print = :print)`,
        { ssidId, id, name: next.name.trim().toLowerCase(), print: key === undefined ? '' : this.print(ssidId, key) },
        transaction,
      );
      if (others.length > 0) {
        const mine = { name: next.name.trim(), print: key === undefined ? '' : this.print(ssidId, key) };
        throw keyRefusal(takenFlaws([mine], others), false);
      }
      const bound = said.macs && boundFlaw(next.macs, await boundIn(this.database, ssidId, { but: id, transaction }));
      if (bound) throw keyRefusal([{ ...bound, row: 0 }], false);
      const fields = Object.keys(said) as (keyof RingKeyFields)[];
      const sets = fields.map((field) => `${COLUMNS[field]} = ${field === 'macs' ? MACS : `:${field}`}`);
      const sealed = key === undefined ? [] : ['sealed = :sealed', 'print = :print', 'master = NULL'];
      await this.database.query(
        `UPDATE ring_key SET at = :at${[...sets, ...sealed].map((each) => `, ${each}`).join('')} WHERE id = :id`,
        {
          replacements: {
            ...next,
            macs: JSON.stringify(next.macs),
            ...(key === undefined ? {} : { sealed: this.secrets.seal(id, key), print: this.print(ssidId, key) }),
            ...{ id, at },
          },
          transaction,
        },
      );
      // Another key is another's: whoever gave the one before is not one of its devices.
      if (key !== undefined) await this.forget([id], transaction);
      return { act: 'ring.set', detail: { name: next.name, fields: Object.keys(to) } };
    });
  }

  /** Takes keys back: whoever is there with one is there no more. */
  async revoke(ssidId: string, ids: readonly string[], personId: string): Promise<void> {
    await this.change(ssidId, ids.length, personId, async (first, transaction) => {
      const names = await this.number(ssidId, ids, first, 'revoked_at = now()', 'revoked_at IS NULL', transaction);
      await this.clearRevoked(ssidId, transaction);
      return { act: 'ring.revoke', detail: { count: names.length, names: names.slice(0, 20) } };
    });
  }

  /** Brings keys back that were taken back. @throws AppError `ring.refused` where a name or a key is another's by now. */
  async restore(ssidId: string, ids: readonly string[], personId: string): Promise<void> {
    await this.change(ssidId, ids.length, personId, async (first, transaction) => {
      const [clash] = await this.select<{ name: string }>(
        `SELECT k.name FROM ring_key k JOIN ring_key o ON o.ssid_id = k.ssid_id AND o.revoked_at IS NULL
           AND (o.print = k.print OR lower(o.name) = lower(k.name))
         WHERE k.ssid_id = :ssidId AND k.id = ANY(ARRAY[:ids]::uuid[]) AND k.revoked_at IS NOT NULL LIMIT 1`,
        { ssidId, ids: [...ids] },
        transaction,
      );
      if (clash)
        throw new AppError(
          'ring.refused',
          `“${clash.name}” cannot come back: its name or its key is another’s by now.`,
        );
      const back = await this.select<KeyRow>(
        'SELECT * FROM ring_key WHERE ssid_id = :ssidId AND id = ANY(ARRAY[:ids]::uuid[]) AND revoked_at IS NOT NULL',
        { ssidId, ids: [...ids] },
        transaction,
      );
      const [bound] = await boundFlaws(this.database, ssidId, back, transaction);
      if (bound) throw new AppError('ring.refused', `“${back[bound.row]!.name}” cannot come back: ${bound.message}`);
      const names = await this.number(ssidId, ids, first, 'revoked_at = NULL', 'revoked_at IS NOT NULL', transaction);
      return { act: 'ring.restore', detail: { count: names.length, names: names.slice(0, 20) } };
    });
  }

  /** Forgets which devices gave a key, so that others may. */
  async forgetDevices(ssidId: string, id: string, personId: string): Promise<void> {
    await this.change(ssidId, 1, personId, async (first, transaction) => {
      const names = await this.number(ssidId, [id], first, '', 'revoked_at IS NULL', transaction);
      await this.forget([id], transaction);
      return { act: 'ring.forget', detail: { names } };
    });
  }

  /** Names and prints of what is right, to tell what is there already. */
  async taken(ssidId: string): Promise<{ names: ReadonlySet<string>; prints: ReadonlySet<string> }> {
    const rows = await this.select<{ name: string; print: string }>(
      'SELECT lower(name) AS name, print FROM ring_key WHERE ssid_id = :ssidId AND revoked_at IS NULL',
      { ssidId },
    );
    return { names: new Set(rows.map(({ name }) => name)), prints: new Set(rows.map(({ print }) => print)) };
  }

  /** The rows of all keys that are right; noted. */
  async rightNow(ssidId: string, personId: string): Promise<(KeyRow & MasterRow)[]> {
    const rows = await this.select<KeyRow & MasterRow>(
      'SELECT * FROM ring_key WHERE ssid_id = :ssidId AND revoked_at IS NULL ORDER BY lower(name), id',
      { ssidId },
    );
    await note(this.database, personId, 'ring.reveal', { ssidId, count: rows.length });
    return rows;
  }

  /** The keys themselves, by id; noted. */
  async reveal(ssidId: string, ids: readonly string[], personId: string): Promise<Record<string, string>> {
    const rows = await this.select<{ id: string; name: string; sealed: Buffer }>(
      'SELECT id, name, sealed FROM ring_key WHERE ssid_id = :ssidId AND id = ANY(ARRAY[:ids]::uuid[])',
      { ssidId, ids: [...ids] },
    );
    await note(this.database, personId, 'ring.reveal', {
      ...{ ssidId, count: rows.length, names: rows.slice(0, 20).map(({ name }) => name) },
    });
    return Object.fromEntries(rows.map(({ id, sealed }) => [id, this.secrets.unseal(id, sealed)]));
  }

  /** Which devices gave which keys now: those that are new are written down; whoever is one too many is told its AP. */
  async gave(ssidId: string, given: readonly { readonly key: string; readonly mac: string }[]): Promise<void> {
    const full = await this.select<{ id: string }>(
      `WITH put AS (
         INSERT INTO ring_device (key_id, mac)
         SELECT k.id, r.mac FROM jsonb_to_recordset(:rows::jsonb) AS r(key uuid, mac text)
           JOIN ring_key k ON k.id = r.key AND k.ssid_id = :ssidId AND k.revoked_at IS NULL
           WHERE (SELECT count(*) FROM ring_device d WHERE d.key_id = k.id) < ${MOST_KEY_DEVICES}
         ON CONFLICT (key_id, mac) DO UPDATE SET last_at = now() RETURNING key_id)
       SELECT k.id FROM ring_key k WHERE k.id IN (SELECT key_id FROM put) AND k.most IS NOT NULL`,
      { ssidId, rows: JSON.stringify(given) },
    );
    if (full.length > 0) {
      // As many as may give it, or more: APs are told which those are.
      const ids = full.map(({ id }) => id);
      await this.change(ssidId, ids.length, null, async (first, transaction) => {
        const more = `most <= (SELECT count(*) FROM ring_device d WHERE d.key_id = ring_key.id)`;
        await this.number(ssidId, ids, first, '', `revoked_at IS NULL AND ${more}`, transaction);
        return null;
      });
    } else await this.bus.send('live', { type: 'ring', ssidId });
  }

  private forget = (ids: readonly string[], transaction: Transaction): Promise<unknown> =>
    this.database.query('DELETE FROM ring_device WHERE key_id = ANY(ARRAY[:ids]::uuid[])', {
      replacements: { ids: [...ids] },
      transaction,
    });

  /** Numbers keys as changes of their ring, one after the other. @returns their names. */
  private async number(
    ssidId: string,
    ids: readonly string[],
    first: number,
    sets: string,
    where: string,
    transaction: Transaction,
  ): Promise<string[]> {
    const rows = await this.select<{ name: string }>(
      `UPDATE ring_key SET at = :first + o.n - 1${sets ? `, ${sets}` : ''}
       FROM unnest(ARRAY[:ids]::uuid[]) WITH ORDINALITY AS o(id, n)
       WHERE ring_key.id = o.id AND ssid_id = :ssidId AND ${where} RETURNING name`,
      { ssidId, first, ids: [...ids] },
      transaction,
    );
    return rows.map(({ name }) => name);
  }

  /** Of very many revoked keys the oldest are forgotten; APs that have not heard of those are told the ring anew. */
  private async clearRevoked(ssidId: string, transaction: Transaction): Promise<void> {
    await this.database.query(
      `WITH old AS (DELETE FROM ring_key WHERE id IN (SELECT id FROM ring_key WHERE ssid_id = :ssidId AND revoked_at IS NOT NULL
         ORDER BY revoked_at DESC OFFSET ${MOST_REVOKED}) RETURNING at)
       UPDATE ring SET floor = GREATEST(floor, (SELECT COALESCE(max(at), 0) FROM old)) WHERE ssid_id = :ssidId`,
      { replacements: { ssidId }, transaction },
    );
  }

  /**
   * Changes a ring under its lock, and says so to its APs and to people.
   * @param count of changes, which are numbered from the first on.
   */
  private async change(
    ssidId: string,
    count: number,
    personId: string | null,
    make: (first: number, transaction: Transaction) => Promise<{ act: string; detail: object } | null>,
  ): Promise<void> {
    if (personId !== null) await this.require(ssidId);
    await this.database.transaction(async (transaction) => {
      const [ring] = await this.select<{ at: string }>(
        `INSERT INTO ring (ssid_id, at) VALUES (:ssidId, :count)
         ON CONFLICT (ssid_id) DO UPDATE SET at = ring.at + :count RETURNING at`,
        { ssidId, count },
        transaction,
      );
      const noted = await make(Number(ring!.at) - count + 1, transaction);
      const [{ keys } = { keys: 0 }] = await this.select<{ keys: number }>(
        'SELECT count(*)::int AS keys FROM ring_key WHERE ssid_id = :ssidId AND revoked_at IS NULL',
        { ssidId },
        transaction,
      );
      if (keys > MOST_KEYS)
        throw new AppError('ring.refused', `A ring has ${MOST_KEYS} keys at most; with these it would have ${keys}.`);
      if (noted) await note(this.database, personId, noted.act, { ssidId, ...noted.detail }, transaction);
    });
    await this.bus.send('ring', { ssidId });
    // What somebody changed may be told by findings too; who gave a key is not.
    await this.bus.send('live', { type: 'ring', ssidId, ...(personId === null ? {} : { changed: true as const }) });
  }

  /** @throws AppError where no SSID asks for keys of this ring, live or in a draft. */
  private async require(ssidId: string): Promise<void> {
    const { estate } = (await this.intents.live()).intent;
    if (estate.ssids.some(({ id }) => id === ssidId)) return;
    // A draft brings it: its keys may be made before it is rolled out.
    const [drafted] = await this.select<{ one: number }>(
      `SELECT 1 AS one FROM operation WHERE body->>'type' = 'ssid.add' AND body->'ssid'->>'id' = :ssidId AND NOT undone LIMIT 1`,
      { ssidId },
    );
    if (!drafted) throw unknown('SSID');
  }

  private readonly print = (ssidId: string, key: string): string => this.secrets.print(ssidId, key);

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

const fieldsOf = ({
  name,
  segment,
  access_class: accessClass,
  macs,
  most,
  starts,
  ends,
  note: why,
}: Omit<KeyRow, 'sealed' | 'at'>): RingKeyFields => ({
  ...{ name, segment, accessClass, macs, most, from: starts, until: ends, note: why },
});
