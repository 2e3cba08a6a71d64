import type { EstatePart } from '@iron-lattice/core/intent';
import type { PeerReport } from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize } from 'sequelize';

/** What a gateway told of its tunnels to other sites last. */
export interface ToldTunnels {
  readonly at: string;
  readonly tunnels: readonly PeerReport[];
}

/** The same of all gateways that have some, by id. */
export async function tunnelsTold(database: Sequelize): Promise<ReadonlyMap<string, ToldTunnels>> {
  const rows = await database.query<{ device_id: string; at: Date; tunnels: readonly PeerReport[] }>(
    `SELECT device_id, at, report->'tunnels' AS tunnels FROM path_now WHERE jsonb_exists(report, 'tunnels')`,
    { type: QueryTypes.SELECT },
  );
  return new Map(rows.map(({ device_id, at, tunnels }) => [device_id, { at: at.toISOString(), tunnels }]));
}

/** Pairs of ids of joined sites between which a tunnel is up: as one end says that tells, unless the other says otherwise. */
export function tunnelsUp(
  { members = [], joins = {} }: EstatePart,
  told: ReadonlyMap<string, ToldTunnels>,
): (readonly [string, string])[] {
  const byName = new Map(members.map(({ id }) => [joins[id]?.name, id]));
  const says = new Map<string, ReadonlyMap<string, boolean>>(
    members.flatMap(({ id, deviceId }) => {
      const tunnels = told.get(deviceId)?.tunnels;
      if (!tunnels) return [];
      const peers = tunnels.flatMap(({ peer, up }) => {
        const other = byName.get(peer);
        return other === undefined ? [] : [[other, up] as const];
      });
      return [[id, new Map(peers)] as const];
    }),
  );
  return [...says].flatMap(([id, peers]) =>
    [...peers].flatMap(([other, up]) => (up && (says.get(other)?.get(id) ?? true) ? [[id, other] as const] : [])),
  );
}
