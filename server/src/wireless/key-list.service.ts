import { setImmediate } from 'node:timers/promises';
import { flaw, type CheckedList, type CheckedRow, type Flaw } from '@iron-lattice/core/base';
import { writePskFile } from '@iron-lattice/core/formats';
import { resolve } from '@iron-lattice/core/intent';
import { boundFlaw, type NewRingKey } from '@iron-lattice/core/wireless';
import type { Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { SecretService } from '../intent/secret.service';
import { AppError, unknown } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import { boundIn } from './key-bound';
import { keyRefusal } from './key-refusal';
import type { MasterKeys } from './master-keys';
import type { RingService } from './ring.service';

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
    private readonly masters: MasterKeys,
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
    const classes = new Map(
      (ssid.classes ?? []).map(({ name, segmentId }) => [
        name.toLowerCase(),
        segmentId === null ? null : vlans.get(segmentId),
      ]),
    );
    const rows = await this.rings.rightNow(ssidId, personId);
    const masters = await this.masters.of(rows, ssid.name);
    const own = ssid.segmentId === null ? null : (vlans.get(ssid.segmentId) ?? null);
    return writePskFile(
      rows.flatMap(({ id, name, segment, access_class: accessClass, macs }) => {
        const leads = segment !== null || accessClass !== null;
        const found =
          accessClass === null ? led.get(segment?.toLowerCase() ?? '') : classes.get(accessClass.toLowerCase());
        const vlan = leads ? (found ?? null) : own;
        // What leads nowhere here lets nobody in.
        return vlan === null ? [] : [{ name, key: masters.get(id)!, vlan: leads ? vlan : null, macs }];
      }),
    );
  }
}
