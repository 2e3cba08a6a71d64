import type { Report } from '@iron-lattice/core/line';

/** A class that a server named to a device that does not know it. */
export interface Stranger {
  readonly server: string;
  readonly said: string;
}

/** Classes that servers named for clients of a device, and that it does not know. */
export const strangersOf = (report: Pick<Report, 'unknown' | 'refused'> | null): Stranger[] =>
  [...(report?.unknown ?? []), ...(report?.refused ?? [])].flatMap(({ why, server, said }) =>
    why === 'class' && server !== undefined && said !== undefined ? [{ server, said }] : [],
  );
