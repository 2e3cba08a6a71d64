import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { SecretService } from '../intent/secret.service';
import type { Bus } from '../platform/bus';
import type { Heavy } from '../platform/heavy';
import type { KeyRow, MasterRow } from './ring-rows';

/** Keys whose master keys are worked out by one task: a tenth of a second, so that others have the thread in between. */
const AT_ONCE = 50;
/** Between two words of how far it is, in milliseconds. */
const TOLD_MS = 1000;

/** Keys that are right, and not worked out for a name. */
const TO_DO = `ssid_id = :ssidId AND revoked_at IS NULL AND (master IS NULL OR master_of IS DISTINCT FROM :name)`;

/**
 * Pairwise master keys of rings (IEEE 802.11-2020 Annex J.4.1): 4,096 rounds of HMAC for each, so they are worked out on worker threads,
 * some at a time, as soon as the name is known that they are made with, and remembered sealed.
 */
export class MasterKeys {
  /** What is being worked out, by the SSID's id, and whether there may be more by now. */
  private readonly running = new Map<string, { work: Promise<void>; more: boolean }>();
  private closing = false;

  constructor(
    private readonly database: Sequelize,
    private readonly secrets: SecretService,
    private readonly heavy: Heavy,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** The SSIDs that have keys, by id. */
  async rings(): Promise<readonly string[]> {
    const rows = await this.database.query<{ id: string }>(
      'SELECT DISTINCT ssid_id AS id FROM ring_key WHERE revoked_at IS NULL',
      { type: QueryTypes.SELECT },
    );
    return rows.map(({ id }) => id);
  }

  /** Begins to work out what is not yet, and says how far it is. @param name of the network, on the air. */
  begin(ssidId: string, name: string): void {
    if (this.closing) return;
    const now = this.running.get(ssidId);
    if (now) {
      now.more = true;
      return;
    }
    const begun = { work: Promise.resolve(), more: false };
    this.running.set(ssidId, begun);
    begun.work = this.workOut(ssidId, name)
      .catch(this.failed)
      .finally(() => {
        this.running.delete(ssidId);
        if (begun.more) this.begin(ssidId, name);
      });
  }

  /** Master keys by key: those that are not known for this name are worked out now. */
  async of(rows: readonly (KeyRow & MasterRow)[], name: string): Promise<Map<string, string>> {
    const known = new Map<string, string>();
    const rest: KeyRow[] = [];
    for (const row of rows)
      if (row.master && row.master_of === name) known.set(row.id, this.secrets.unseal(row.id, row.master));
      else rest.push(row);
    const parts = Array.from({ length: Math.ceil(rest.length / AT_ONCE) }, (_, i) =>
      rest.slice(i * AT_ONCE, (i + 1) * AT_ONCE),
    );
    const made = await Promise.all(parts.map((part) => this.compute(part, name)));
    const fresh = made.flat();
    for (const { id, master } of fresh) known.set(id, master);
    await this.keep(fresh, name);
    return known;
  }

  async close(): Promise<void> {
    this.closing = true;
    await Promise.all([...this.running.values()].map(({ work }) => work));
  }

  private async workOut(ssidId: string, name: string): Promise<void> {
    let told = Date.now();
    for (let more = true; more && !this.closing;) {
      // Those that another controller is at are left to it.
      more = await this.database.transaction(async (transaction) => {
        const rows = await this.database.query<KeyRow>(
          `SELECT * FROM ring_key WHERE ${TO_DO} ORDER BY id LIMIT ${AT_ONCE} FOR UPDATE SKIP LOCKED`,
          { replacements: { ssidId, name }, type: QueryTypes.SELECT, transaction },
        );
        await this.keep(await this.compute(rows, name), name, transaction);
        return rows.length === AT_ONCE;
      });
      if (more && Date.now() - told < TOLD_MS) continue;
      told = Date.now();
      await this.bus.send('live', { type: 'ring', ssidId });
    }
  }

  private async compute(rows: readonly KeyRow[], name: string): Promise<{ id: string; master: string }[]> {
    if (rows.length === 0) return [];
    const keys = rows.map(({ id, sealed }) => this.secrets.unseal(id, sealed));
    const made = await this.heavy.run('master-keys', keys, new TextEncoder().encode(name));
    return rows.map(({ id }, at) => ({ id, master: made[at]! }));
  }

  private async keep(
    fresh: readonly { readonly id: string; readonly master: string }[],
    name: string,
    transaction: Transaction | null = null,
  ): Promise<void> {
    if (fresh.length === 0) return;
    const rows = fresh.map(({ id, master }) => ({ id, sealed: this.secrets.seal(id, master).toString('base64') }));
    await this.database.query(
      `UPDATE ring_key SET master = decode(r.sealed, 'base64'), master_of = :name
       FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, sealed text) WHERE ring_key.id = r.id`,
      { replacements: { name, rows: JSON.stringify(rows) }, type: QueryTypes.UPDATE, transaction },
    );
  }
}
