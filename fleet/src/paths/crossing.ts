import { isUnanswered, parseIp } from '@iron-lattice/core/address';
import type { Gateway, Leaver } from './leaver';
import type { GatewayPaths } from './gateway-paths';
import { publicOf } from './tunnel-key';
import type { Crossing, Outer } from './tunnels';

/** What of a world is looked at to get from one gateway to another. */
interface Ground<Box extends Leaver> {
  /** Whose uplink an address is. */
  at(address: string): { readonly box: Box; readonly port: string } | null;
  byKey(key: string): Gateway<Box> | undefined;
  of(box: Box): GatewayPaths | null;
  /** Milliseconds until something answers through a port; null: it does not. */
  ask(socket: string, to: string): number | null;
}

/** Finds the other ends of a gateway’s tunnels: one of the two has to know where the other is, and gets through to there. */
export function crossing<Box extends Leaver>(box: Box, ground: Ground<Box>): Outer {
  /** One end calls the other at the addresses that it was told, through the uplink that it uses first. */
  const call = (from: Box, at: readonly string[], to: Box): (Crossing & { readonly port: string }) | string => {
    let why = 'It waits to be called.';
    const paths = ground.of(from);
    for (const address of at) {
      const by = paths?.calls() ?? null;
      if (by === null) return 'No uplink is used.';
      const ip = parseIp(address);
      const home = ip && !isUnanswered(ip) ? ground.at(address) : null;
      why = `Nobody answers at ${address}.`;
      if (home?.box !== to || !ground.of(to)?.carries(home.port)) continue;
      const [there, back] = [
        ground.ask(`${from.device.serial}:${by}`, address),
        ground.ask(`${to.device.serial}:${home.port}`, address),
      ];
      const ms = there === null || back === null || !paths?.carries(by) ? null : there + back;
      return { by, to: address, ms, port: home.port };
    }
    return why;
  };
  return {
    cross: (own, peer) => {
      if (publicOf(box.secrets[own.key.secret]) !== own.public) return 'It has not the key that others know it by.';
      const other = ground.byKey(peer.public);
      const theirs = other?.box.document.kind === 'gateway' ? other.box.document.overlay : undefined;
      const known = theirs?.peers.find((each) => each.public === own.public);
      if (!other || !known) return 'The other end knows no tunnel to here, or has no power.';
      const called = call(box, peer.at, other.box);
      if (typeof called !== 'string') return { by: called.by, to: called.to, ms: called.ms };
      const answered = call(other.box, known.at, box);
      if (typeof answered === 'string') return peer.at.length > 0 ? called : 'The other end did not call.';
      const from = ground.of(other.box)?.addressOf(answered.by) ?? 'an address that is translated';
      return { by: answered.port, to: from, ms: answered.ms };
    },
    holds: (peer, site) => ground.byKey(peer.public)?.paths.tunnels?.isUp(site) ?? false,
  };
}
