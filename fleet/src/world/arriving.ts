import { formatIp, parseIp } from '@iron-lattice/core/address';
import { ledTo, type LedTo } from '@iron-lattice/core/document';
import type { Packet } from '@iron-lattice/core/rules';
import type { Paths } from '../paths/paths';
import type { Got, Wanted } from './asked';
import type { Box } from './box';

/** Numbers of protocols (IANA). */
export const NUMBERS = { icmp: 1, tcp: 6, udp: 17 } as const;
/** ICMP for IPv6 is another protocol, whose echo has another type (RFC 4443 §4.1). */
const [ICMP6, ECHO6] = [58, 128];
export const CLIENT_PORT = 49_152;

/** What somebody sends who wants something at an address; null where the addresses are no pair. */
export function packetOf(from: string, target: string, { protocol, port }: Wanted): Packet | null {
  const [source, destination] = [parseIp(from), parseIp(target)];
  if (!source || source.version !== destination?.version) return null;
  return {
    ...{ version: source.version, source: source.value, destination: destination.value },
    protocol: protocol === 'icmp' && source.version === 6 ? ICMP6 : NUMBERS[protocol],
    ...(protocol === 'icmp'
      ? { type: source.version === 6 ? ECHO6 : 8, code: 0 }
      : { port: port ?? 0, sourcePort: CLIENT_PORT }),
  };
}

/** Where something that was sent to an uplink’s address went on to, or what became of it there. */
export type Arrival = { readonly led: LedTo; readonly target: string; readonly wanted: Wanted } | { readonly got: Got };

/** What comes to the addresses of uplinks: from outside, or from behind the same gateway. */
export class Arriving {
  constructor(private readonly paths: Pick<Paths<Box>, 'of' | 'at'>) {}

  /** The gateway whose uplink has an address; null: none has. */
  at = (address: string): { readonly box: Box; readonly port: string } | null => this.paths.at(address);

  /** @param inside whether it comes from behind that gateway. */
  arrives(box: Box, port: string, from: string, target: string, wanted: Wanted, inside: boolean): Arrival {
    const { document } = box;
    const refused = (why: string): Arrival => ({ got: { ok: false, why } });
    if (!inside && !this.paths.of(box)?.carries(port)) return refused(`Nothing gets through to ${target}.`);
    const packet = packetOf(from, target, wanted);
    if (document.kind !== 'gateway' || !packet) return refused(`Nobody has ${target}.`);
    if (wanted.protocol === 'icmp') return { got: { ok: true, why: `${target} answers.` } };
    const led = ledTo(document.published ?? [], packet, inside ? null : port);
    if (!led)
      return refused(
        `${target} is ${document.device.name}, which publishes nothing at ${wanted.protocol} ${wanted.port}.`,
      );
    const { version, destination, port: there } = led.packet;
    const address = formatIp({ version, value: destination });
    return { led, target: address, wanted: { ...wanted, ...(there === undefined ? {} : { port: there }) } };
  }
}
