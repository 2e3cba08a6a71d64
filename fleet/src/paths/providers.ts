import { contains, formatIp, parseMac, parsePrefix, selfMadeAddress, type IpAddress } from '@iron-lattice/core/address';
import type { UplinkDocument } from '@iron-lattice/core/document';
import type { Capacity, DrilledMishap } from '@iron-lattice/core/line';
import type { Target } from '@iron-lattice/core/paths';
import type { WorldProvider } from './provider-file';

/** How a provider fares: whether its links are up, whether it carries anything, and how well. */
export interface Weather {
  /** Its links: a port that is plugged in there shows it at once. */
  readonly up: boolean;
  /** Links stay up, and nothing gets through. */
  readonly silent: boolean;
  /** Share of packets that get lost. */
  readonly loss: number;
  /** Milliseconds that it takes longer than usual, there and back; and by how many that varies. */
  readonly delay: number;
  readonly jitter: number;
  /** Addresses that do not answer through it. */
  readonly gone: readonly string[];
}

export const FAIR: Weather = { up: true, silent: false, loss: 0, delay: 0, jitter: 0, gone: [] };
/** How long a packet is under way there and back where nothing is said, in milliseconds, and by how many that varies. */
const [USUAL_LATENCY, USUAL_JITTER] = [8, 1];
const USUAL_MBPS = 940;

/** What a port is given by its provider, or why it is given nothing. */
export type Given =
  | { readonly address: string; readonly gateway: string; readonly dns: readonly string[] }
  | { readonly address: null; readonly why: string };

/** The same of IPv6. */
export type Given6 =
  | { readonly address: string; readonly gateway: string; readonly prefix?: string }
  | { readonly address: null; readonly why: string };

/** How an answer came, if it did. */
export interface Answered {
  /** Milliseconds there and back; null: it did not come. */
  readonly ms: number | null;
}

/** The providers of a world: who is given which address, and what gets through. */
export class Providers {
  private readonly weather = new Map<string, Weather>();
  /** What gateways play on single ports of theirs. */
  private readonly played = new Map<string, Partial<Weather>>();
  private readonly bySocket = new Map<string, WorldProvider>();

  /** @param chance from 0 to below 1. */
  constructor(
    private readonly file: { readonly providers: readonly WorldProvider[] },
    private readonly chance: () => number = Math.random,
  ) {
    this.index();
  }

  /** Cables were moved from one box to another. */
  index(): void {
    this.bySocket.clear();
    for (const provider of this.file.providers)
      for (const socket of Object.keys(provider.gives)) this.bySocket.set(socket, provider);
  }

  /** Addresses that providers hand on to ports. */
  *forwards(): Iterable<readonly [address: string, socket: string]> {
    for (const { forwards } of this.file.providers) yield* Object.entries(forwards ?? {});
  }

  /** Who is at the other end of a port, `SERIAL:port`. */
  at = (socket: string): WorldProvider | undefined => this.bySocket.get(socket);

  private weatherOf = (name: string): Weather => this.weather.get(name) ?? FAIR;

  /** How it is at a port: as its provider fares, and what its gateway plays there. */
  private weatherAt(socket: string, { name }: WorldProvider): Weather {
    const [provider, played] = [this.weatherOf(name), this.played.get(socket)];
    if (!played) return provider;
    return {
      up: provider.up && (played.up ?? true),
      silent: provider.silent || (played.silent ?? false),
      loss: Math.min(1, provider.loss + (played.loss ?? 0)),
      delay: provider.delay + (played.delay ?? 0),
      jitter: provider.jitter,
      gone: [...provider.gone, ...(played.gone ?? [])],
    };
  }

  /** A gateway plays something on a port of its own; null: no more. */
  play(socket: string, change: Partial<Weather> | null): void {
    if (change) this.played.set(socket, { ...this.played.get(socket), ...change });
    else this.played.delete(socket);
  }

  /** A provider fares otherwise from now on. @throws RangeError when there is none of that name. */
  set(name: string, change: Partial<Weather>): void {
    if (!this.file.providers.some((each) => each.name === name)) throw new RangeError(`no provider ${name}`);
    this.weather.set(name, { ...this.weatherOf(name), ...change });
  }

  /** Whether a port has a link. */
  hasLink(socket: string): boolean {
    const provider = this.at(socket);
    return provider !== undefined && this.weatherAt(socket, provider).up;
  }

  /** What a port is given that asks as it is told to. */
  given(socket: string, uplink: UplinkDocument, secrets: Readonly<Record<string, string>>): Given {
    const provider = this.at(socket);
    if (!provider) return none('No cable.');
    if (!this.weatherAt(socket, provider).up) return none('No link.');
    const { asks = {} } = provider;
    if ((asks.vlan ?? null) !== (uplink.vlan ?? null))
      return none(`Nobody answers ${uplink.vlan === undefined ? 'untagged' : `in VLAN ${uplink.vlan}`}.`);
    const address = provider.gives[socket]!;
    const router = provider.router?.[socket] ?? address.replace(/\d+$/, '1');
    const given = { address, gateway: router, dns: provider.dns ?? [router] };
    switch (uplink.method) {
      case 'static':
        return uplink.fixed?.address.split('/')[0] === address && uplink.fixed.gateway === router
          ? given
          : none('Nobody answers at the gateway that was said.');
      case 'pppoe': {
        if (!asks.login) return none('Nobody answers by PPPoE.');
        const { user, password } = asks.login;
        const { login } = uplink;
        const right = login?.user === user && secrets[login.password.secret] === password;
        return right ? given : none('The provider turns the name and the password down.');
      }
      case 'cellular':
        return asks.apn === undefined || asks.apn === uplink.apn
          ? given
          : none(`The mobile network knows no access point ${uplink.apn ?? 'without a name'}.`);
      case 'dhcp':
        return asks.login || asks.fixed ? none('Nobody answers by DHCP.') : given;
    }
  }

  /** What a port is given by IPv6 that was given an address of IPv4; null: it asks for none. @param mac its own. */
  given6(socket: string, { six, fixed6 }: UplinkDocument, mac: string): Given6 | null {
    if (six === undefined) return null;
    const offered = this.at(socket)?.six?.[socket];
    if (!offered) return none('The provider has no IPv6.');
    const { network, router, prefix, fixed } = offered;
    if (six === 'static') {
      const isSo = fixed6 !== undefined && fixed6.address === fixed && fixed6.gateway === router;
      return isSo ? { address: fixed.split('/')[0]!, gateway: router } : none('Nobody answers at the IPv6 gateway.');
    }
    const own = selfMadeAddress(parsePrefix(network)!, parseMac(mac)!);
    if (!own) return none('The provider’s router advertises no network that an address can be made in.');
    const given = { address: formatIp(own), gateway: router };
    if (six === 'slaac') return given;
    return prefix === undefined ? none('The provider delegates no prefix.') : { ...given, prefix };
  }

  /** Whether answers to an address of IPv6 come back by a port: its provider carries no other’s (BCP 38). @param six how the port asked. */
  knows6(socket: string, { six }: Pick<UplinkDocument, 'six'>, source: IpAddress): boolean {
    const offered = this.at(socket)?.six?.[socket];
    if (!offered || six === undefined) return false;
    const { network, prefix } = offered;
    const known = [network, ...(prefix !== undefined && six !== 'slaac' ? [prefix] : [])];
    return known.some((text) => contains(parsePrefix(text)!, source));
  }

  /** Whether something answers through a port that was given an address, and how soon. */
  ask(socket: string, { to }: Pick<Target, 'to'>): Answered {
    const provider = this.at(socket);
    if (!provider) return { ms: null };
    const { up, silent, loss, delay, jitter, gone } = this.weatherAt(socket, provider);
    if (!up || silent || gone.includes(to) || this.chance() < loss) return { ms: null };
    const varies = (this.chance() - 0.5) * 2 * (jitter + USUAL_JITTER);
    return { ms: Math.max(0.2, (provider.latency ?? USUAL_LATENCY) + delay + varies) };
  }

  /** What one sender gets through a port, in megabits a second: a little less than there is, and less where packets get lost. */
  capacityOf(socket: string): Capacity | null {
    const provider = this.at(socket);
    if (!provider) return null;
    const [down, up] = provider.mbps ?? [USUAL_MBPS, USUAL_MBPS];
    const { loss } = this.weatherAt(socket, provider);
    const got = (most: number): number =>
      Number((most * (0.97 + this.chance() * 0.02) * Math.max(0.05, 1 - 8 * loss)).toFixed(1));
    return { down: got(down), up: got(up) };
  }

  /** Whether packets get through at all, chance aside. */
  carries(socket: string): boolean {
    const provider = this.at(socket);
    if (!provider) return false;
    const { up, silent, loss } = this.weatherAt(socket, provider);
    return up && !silent && loss < 1;
  }
}

const none = (why: string) => ({ address: null, why }) as const;

/** What a mishap does while it lasts, and what takes that back. */
export function weatherBy(
  what: Exclude<DrilledMishap['what'], 'off'>,
  { amount = 0, target }: DrilledMishap,
  on: boolean,
): Partial<Weather> {
  switch (what) {
    case 'cut':
      return { up: !on };
    case 'silent':
      return { silent: on };
    case 'lossy':
      return { loss: on ? amount : 0 };
    case 'slow':
      return { delay: on ? amount : 0 };
    case 'target':
      return { gone: on && target !== undefined ? [target] : [] };
  }
}
