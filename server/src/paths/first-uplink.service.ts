import { sameValue } from '@iron-lattice/core/base';
import type { FirstUplink } from '@iron-lattice/core/document';
import type { Sequelize, Transaction } from 'sequelize';
import { SecretRow } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import type { SecretService } from '../intent/secret.service';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import { type Device } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';

/**
 * How gateways come to an address by what somebody said at their own pages. It holds wherever nothing else is said of that uplink, so
 * the first document that such a gateway is told leaves it its way out.
 */
export class FirstUplinkService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: Pick<IntentService, 'live'>,
    private readonly rosters: Pick<RosterService, 'retarget'>,
    private readonly secrets: Pick<SecretService, 'seal' | 'open'>,
  ) {}

  /** A box in factory state says what was said to it; null: nothing. Before it is told anything. */
  async said(device: Device, first: FirstUplink<string> | null): Promise<void> {
    const { login, ...rest } = first ?? {};
    const kept =
      first && ({ ...rest, ...(login ? { login: { user: login.user, password: ref(device) } } : {}) } as FirstUplink);
    // Most say what they said before, and nobody is kept waiting for it.
    if (sameValue(device.first ?? null, kept) && (!login || (await this.passwordOf(device)) === login.password)) return;
    const keep = async (transaction: Transaction): Promise<void> => {
      if (login) await this.keep(device.id, login.password, transaction);
      await device.update({ first: kept, version: device.version + 1 }, { transaction });
    };
    // What belongs to nobody changes nobody’s intent.
    if (device.siteId === null) return this.database.transaction(keep);
    await changeIntent(this.database, async (transaction) => {
      await keep(transaction);
      await note(this.database, null, 'device.first-uplink', { port: kept?.port ?? null }, transaction, device.id);
      const live = await this.intents.live(transaction);
      await this.rosters.retarget(live.pairs.get(device.siteId!)!, device.siteId!, transaction);
      await device.reload({ transaction });
    });
  }

  private async passwordOf({ id }: Device): Promise<string | undefined> {
    return (await this.secrets.open([id]))[id];
  }

  /** The password for a provider, under the gateway’s own id: one each, however often it is said anew. */
  private async keep(id: string, value: string, transaction: Transaction): Promise<void> {
    await SecretRow.upsert({ id, sealed: this.secrets.seal(id, value), personId: null }, { transaction });
  }
}

const ref = ({ id }: Device) => ({ secret: id });
