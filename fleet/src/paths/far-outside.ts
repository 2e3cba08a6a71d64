import { isUnanswered, parseIp } from '@iron-lattice/core/address';
import type { FarGateway, FarGateways } from './far-gateways';
import type { GatewayPaths } from './gateway-paths';
import type { Leaver } from './leaver';
import type { FarOutside, FarWay } from './pacts';

/** What of a world is looked at between a gateway and those of others. */
interface Ground<Box extends Leaver> {
  readonly far: FarGateways;
  /** Whose uplink an address is. */
  at(address: string): { readonly box: Box; readonly port: string } | null;
  paths(): GatewayPaths | null;
  /** Milliseconds until something answers through a port; null: it does not. */
  ask(socket: string, to: string): number | null;
}

/** What a gateway finds outside of gateways of others: those that it calls through the uplink that it uses first, and those that call an uplink of its. */
export function farOutside<Box extends Leaver>(box: Box, ground: Ground<Box>): FarOutside {
  const { serial } = box.device;
  const way = (far: FarGateway, port: string, called: boolean): FarWay => {
    const paths = ground.paths();
    const ip = parseIp(paths?.addressOf(port) ?? '');
    const ms = far.silent || !paths?.carries(port) ? null : ground.ask(`${serial}:${port}`, far.at);
    return { far, by: port, to: far.at, translated: ip !== null && isUnanswered(ip), ms, called };
  };
  return {
    toward: (at) => {
      const by = ground.paths()?.calls() ?? null;
      if (by === null) return 'No uplink is used.';
      const far = ground.far.at(at);
      return far ? way(far, by, false) : `Nothing comes back from ${at}: nobody is there.`;
    },
    callers: () =>
      ground.far.callers().flatMap((far) => {
        const home = ground.at(far.calls!);
        return home?.box === box ? [way(far, home.port, true)] : [];
      }),
  };
}
