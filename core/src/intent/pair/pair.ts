import type { PairRole } from '../../document';

/** Two gateways of a site, of which one holds the segments’ addresses and the other takes over (VRRP, RFC 9568). */
export interface Pair {
  /** Device ids: the one that routes while all is well, and the one that stands by. */
  readonly firstId: string;
  readonly secondId: string;
  /** Virtual Router ID (RFC 9568 §5.2.3): others of another number may be in the same segment. */
  readonly router: number;
  /** Hundredths of a second between two words that the one that routes is there (RFC 9568 §5.2.7). */
  readonly advert: number;
  /** Whether the first routes again once it can; else whoever does goes on. */
  readonly back: boolean;
  /** Ports of uplinks without which one hands over. */
  readonly tracks: Readonly<Record<PairRole, readonly string[]>>;
  /** Whether it hands over once all of them failed, or when any does. */
  readonly when: 'all' | 'any';
  /** Whether each tells the other which addresses it gave out. */
  readonly leases: boolean;
  /** What each is fed by, such as a circuit or a battery; empty: not said. */
  readonly power: Readonly<Record<PairRole, string>>;
}

/** Fewest and most hundredths of a second between advertisements. */
export const [LEAST_ADVERT, MOST_ADVERT] = [10, 1000];
/** Virtual Router IDs end here (RFC 9568 §5.2.3); tracked uplinks of one; characters of what feeds one. */
export const [MOST_ROUTER, MOST_TRACKED, MOST_POWER] = [255, 8, 40];

/** A pair as it is while nothing but its gateways is said. */
export const usualPair = (firstId: string, secondId: string): Pair => ({
  ...{ firstId, secondId, router: 1, advert: 100, back: true, tracks: { first: [], second: [] }, when: 'all' },
  ...{ leases: true, power: { first: '', second: '' } },
});

/** RFC 9568 §5.2.4: of the one that usually routes, of the one that stands by; and by how much each is lowered. */
const [FIRST, SECOND, LOWERED] = [200, 150, 100];

/** The priority of one of the two while what it tracks is good, and while it is not. Where neither is preferred both are alike: whoever routes goes on (RFC 9568 §6.4.2). */
export function prioritiesOf({ back }: Pair, role: PairRole): { readonly priority: number; readonly lowered: number } {
  const priority = role === 'first' && back ? FIRST : SECOND;
  return { priority, lowered: priority - LOWERED };
}

/** Of which gateways what is said holds at one: at the second of a pair what is said of the first, and its own. */
export const spokenFor = (pair: Pair | undefined, deviceId: string): readonly string[] =>
  pair?.secondId === deviceId ? [pair.firstId, deviceId] : [deviceId];
