import { setImmediate } from 'node:timers/promises';
import { flaw, type CheckedList, type CheckedRow, type Flaw } from '@iron-lattice/core/base';
import { writePskFile } from '@iron-lattice/core/formats';
import { resolve } from '@iron-lattice/core/intent';
import { boundFlaw, type NewRingKey } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { SecretService } from '../intent/secret.service';
import { AppError, unknown } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import { boundIn } from './key-bound';
import { keyRefusal } from './key-refusal';
import type { KeyRow, MasterRow } from './ring-rows';
import type { RingService } from './ring.service';

/** Keys whose master keys are worked out by one task. */
const AT_ONCE = 50;
/** Rows that are held against what is there before others have their turn. */
const LOOKED_AT = 500;

/** Keys of rings as lists and files. */
export class KeyListService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rings: RingService,
    private readonly secrets: SecretService,
    private readonly heavy: Heavy,
  ) {}

  /** A list of keys, looked at row by row. @throws AppError `list.refused` when it cannot be read. */
  async preview(ssidId: string, bytes: Uint8Array): Promise<CheckedList<NewRingKey>> {
    const read = await this.heavy.read('read-table', bytes);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    const [seen, { names, prints }, bound] = await Promise.all([
      this.heavy.run('key-list', read.table),
      this.rings.taken(ssidId),
      boundIn(this.database, ssidId),
    ]);
    const taken = ({ name, key, macs }: NewRingKey): Flaw | null => {
      if (names.has(name.trim().toLowerCase()))
        return flaw('ring.name-taken', `“${name}” has a key in this ring already.`, 'name');
      return prints.has(this.secrets.print(ssidId, key))
        ? flaw('ring.key-taken', 'Another of this ring has this key.', 'key')
        : boundFlaw(macs, bound);
    };
    const rows: CheckedRow<NewRingKey>[] = [];
    for (const [i, row] of seen.rows.entries()) {
      const found = row.good && taken(row.good);
      rows.push(found ? { ...row, good: null, flaws: [found] } : row);
      if (i % LOOKED_AT === LOOKED_AT - 1) await setImmediate(); // others have their turn
    }
    return { ...seen, rows };
  }

  /** Reads keys that are to be made. @throws AppError `ring.refused` where one is none, or is wrong. */
  async read(bytes: Uint8Array): Promise<readonly NewRingKey[]> {
    const { keys, flaws, refused } = await this.heavy.run('new-keys', bytes);
    if (refused !== null) throw new AppError('ring.refused', refused);
    if (flaws.length > 0) throw keyRefusal(flaws, keys.length > 1);
    return keys;
  }

  /** The keys as hostapd reads them, with the VLAN that each leads to at a site, as it is live there. */
  async pskFile(ssidId: string, siteId: string, personId: string): Promise<string> {
    const pair = (await this.intents.live()).pairs.get(siteId);
    const ssid = pair && resolve(pair.estate, pair.site).ssids.find(({ id }) => id === ssidId);
    if (!pair || !ssid?.ring) throw unknown('ring at this site');
    const vlans = new Map(pair.site.segments.map(({ id, vlan }) => [id, vlan]));
    const led = new Map((ssid.ringSegments ?? []).map((each) => [each.name.toLowerCase(), vlans.get(each.segmentId)!]));
    const rows = await this.rings.rightNow(ssidId, personId);
    const masters = await this.masters(rows, ssid.name);
    const own = ssid.segmentId === null ? null : (vlans.get(ssid.segmentId) ?? null);
    return writePskFile(
      rows.flatMap(({ id, name, segment, macs }) => {
        const vlan = segment === null ? own : (led.get(segment.toLowerCase()) ?? null);
        // What leads nowhere here lets nobody in.
        return vlan === null ? [] : [{ name, key: masters.get(id)!, vlan: segment === null ? null : vlan, macs }];
      }),
    );
  }

  /** Master keys by key, worked out on worker threads where they are not known for this name, and remembered. */
  private async masters(rows: readonly (KeyRow & MasterRow)[], ssid: string): Promise<Map<string, string>> {
    const known = new Map<string, string>();
    const rest: KeyRow[] = [];
    for (const row of rows)
      if (row.master && row.master_of === ssid) known.set(row.id, this.secrets.unseal(row.id, row.master));
      else rest.push(row);
    const name = new TextEncoder().encode(ssid);
    const parts = Array.from({ length: Math.ceil(rest.length / AT_ONCE) }, (_, i) =>
      rest.slice(i * AT_ONCE, (i + 1) * AT_ONCE),
    );
    const made = await Promise.all(
      parts.map((part) =>
        this.heavy.run(
          'master-keys',
          part.map(({ id, sealed }) => this.secrets.unseal(id, sealed)),
          name,
        ),
      ),
    );
    const fresh = parts.flatMap((part, i) => part.map(({ id }, at) => ({ id, master: made[i]![at]! })));
    for (const { id, master } of fresh) known.set(id, master);
    if (fresh.length > 0)
      await this.database.query(
        `UPDATE ring_key SET master = decode(r.sealed, 'base64'), master_of = :ssid
         FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, sealed text) WHERE ring_key.id = r.id`,
        {
          replacements: {
            ssid,
            rows: JSON.stringify(
              fresh.map(({ id, master }) => ({ id, sealed: this.secrets.seal(id, master).toString('base64') })),
            ),
          },
          type: QueryTypes.UPDATE,
        },
      );
    return known;
  }
}
