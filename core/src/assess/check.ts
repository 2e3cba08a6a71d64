import type { Link, ResolvedSite, RosterDevice } from '../intent';
import type { Documents } from '../lattice';
import type { Finding } from './finding';

/** All a check may look at: the intent as resolved, what it compiles to, and the cables as reported. */
export interface CheckContext {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
  readonly documents: Documents;
  readonly links: readonly Link[];
}

/** One kind of fault: everything of that kind at a site. */
export type Check = (context: CheckContext) => Finding[];

/** A device's name, for sentences. */
export const nameIn = (context: CheckContext, deviceId: string): string =>
  context.roster.find((device) => device.id === deviceId)?.name ?? deviceId;
