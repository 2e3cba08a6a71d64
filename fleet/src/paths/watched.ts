import type { UplinkDocument } from '@iron-lattice/core/document';
import type { PathReport } from '@iron-lattice/core/line';
import type { Health, Rounds } from '@iron-lattice/core/paths';
import type { Given } from './providers';
import type { Six } from './six';

/** One uplink as its gateway knows it. */
export interface Watched {
  readonly uplink: UplinkDocument;
  readonly socket: string;
  given: Given;
  /** Whether it ever had one. */
  had: boolean;
  /** Since when it has its address, in milliseconds since 1970. */
  since: number;
  health: Health;
  rounds: Rounds;
  timer: NodeJS.Timeout | null;
  /** The same of IPv6; null: it asks for none. */
  six: Six | null;
  /** Sessions that began on it since they are counted. */
  sessions: number;
  /** Octets that passed since it was switched on. */
  readonly octets: { down: number; up: number };
}

/** How uplinks of a gateway are used together. */
export interface UsedTogether {
  /** Weights of those that are used, by port. */
  readonly used: ReadonlyMap<string, number>;
  readonly standing: ReadonlySet<string>;
  readonly waiting: ReadonlySet<string>;
  readonly isPlugged: boolean;
}

/** What a gateway tells of an uplink. */
export function uplinkReport(each: Watched, { used, standing, waiting, isPlugged }: UsedTogether): PathReport {
  const { given, since, had, health, rounds, six, sessions, octets } = each;
  const { port } = each.uplink;
  const { loss, delay } = rounds.over();
  return {
    port,
    state:
      given.address === null
        ? had || isPlugged
          ? 'none'
          : 'unplugged'
        : health.good
          ? waiting.has(port)
            ? 'waits'
            : 'good'
          : 'gone',
    since: given.address === null ? since : health.since,
    used: used.has(port),
    ...(used.has(port) ? { weight: used.get(port)! } : {}),
    ...(standing.has(port) ? { standby: true as const } : {}),
    ...(given.address === null ? { why: given.why } : { gateway: given.gateway, dns: given.dns, given: since }),
    ...(six ? { six: { ...six.given, since: six.since } } : {}),
    ...(health.flaps > 0 ? { flaps: health.flaps } : {}),
    ...(rounds.count > 0 ? { loss: round(loss, 2) } : {}),
    ...(delay === null ? {} : { delay: round(delay, 0), jitter: round(rounds.jitter, 0) }),
    sessions,
    octets: { ...octets },
  };
}

const round = (value: number, digits: number): number => Number(value.toFixed(digits));
