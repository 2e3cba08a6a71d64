/** Jitter after each packet (RFC 3550 §6.4.1). @param differences of transit times from one packet to the next, in milliseconds. */
export function jitters(differences: readonly number[]): number[] {
  let jitter = 0;
  return differences.map((difference) => (jitter += (Math.abs(difference) - jitter) / 16));
}

/** A round trip as it is smoothed, and how much it varies (RFC 6298 §2), in milliseconds. */
export interface SmoothTrip {
  readonly smooth: number;
  readonly varies: number;
}

/** The same after each of some round trips. */
export function smoothTrips(trips: readonly number[]): SmoothTrip[] {
  const all: SmoothTrip[] = [];
  for (const trip of trips) {
    const last = all.at(-1);
    all.push(
      last
        ? {
            varies: 0.75 * last.varies + 0.25 * Math.abs(last.smooth - trip),
            smooth: 0.875 * last.smooth + 0.125 * trip,
          }
        : { smooth: trip, varies: trip / 2 },
    );
  }
  return all;
}

/** Packets and octets of which one in so many was looked at (RFC 3176), and by how many percent that is off at the most in 95 of 100 cases. */
export function fromSamples(
  oneIn: number,
  samples: number,
  octets: number,
): { readonly packets: number; readonly octets: number; readonly error: number | null } {
  return {
    packets: oneIn * samples,
    octets: oneIn * octets,
    error: samples === 0 ? null : 196 * Math.sqrt(1 / samples),
  };
}
