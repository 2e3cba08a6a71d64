import type { MisfitView } from '@iron-lattice/core/assess';
import type { Intent, RosterDevice } from '@iron-lattice/core/intent';
import type { RosterRow } from '../roster/device.model';
import type { Draft, OperationRow } from './intent.model';
import type { LiveIntent } from './intent.service';

/** A draft's edits that are in force, applied to what is live. */
export interface OpenedDraft {
  readonly draft: Draft;
  /** Who began it. */
  readonly by: string;
  readonly rows: readonly OperationRow[];
  readonly intent: Intent;
  /** What is live at each site, and which sites follow something else than the newest; without the draft's edits. */
  readonly live: LiveIntent;
  /** Sites at which another draft is being rolled out, with that draft's name. */
  readonly held: ReadonlyMap<string, string>;
  readonly misfits: readonly MisfitView[];
  readonly liveRevision: number;
  /** Devices that are there, and those that are expected: what is said may be about either. */
  readonly roster: readonly RosterDevice[];
  /** Those that are there. */
  readonly devices: readonly RosterRow[];
}
