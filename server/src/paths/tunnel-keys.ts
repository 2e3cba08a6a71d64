import { randomUUID } from 'node:crypto';
import type { TunnelKeyView } from '@iron-lattice/core/assess';
import type { Sequelize } from 'sequelize';
import type { SecretService } from '../intent/secret.service';
import { curveKeys } from '../platform/curve-keys';
import { note } from '../platform/journal';

/** Makes keys by which gateways of joined sites know each other: the private ones are sealed at once, and never shown. */
export class TunnelKeys {
  constructor(
    private readonly database: Sequelize,
    private readonly secrets: Pick<SecretService, 'add'>,
  ) {}

  async make(count: number, personId: string): Promise<TunnelKeyView[]> {
    const made = Array.from({ length: count }, () => ({ secret: randomUUID(), ...curveKeys() }));
    await this.database.transaction(async (transaction) => {
      await this.secrets.add(Object.fromEntries(made.map(({ secret, own }) => [secret, own])), personId, transaction, {
        hidden: true,
      });
      await note(this.database, personId, 'tunnel.keys', { count }, transaction);
    });
    return made.map(({ secret, public: key }) => ({ secret, public: key }));
  }
}
