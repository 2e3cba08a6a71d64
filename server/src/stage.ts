import type { Sequelize } from 'sequelize';
import type { Ground } from './ground';
import type { Migration } from './platform/migrate';
import type { Route } from './platform/route';

/**
 * What one stage of the work brings to the controller. Topics that its processes tell each other on are declared where they
 * are used (`BusMessages`), tasks of worker threads in the file that `heavy` names (`HeavyTasks`).
 */
export interface Stage {
  readonly name: string;
  readonly models?: readonly ((database: Sequelize) => void)[];
  readonly migrations?: readonly Migration[];
  /** A module with what it has done on worker threads, as `tasks`. */
  readonly heavy?: URL;
  /** Statements that clear away, now and then, what nobody can want any more. */
  readonly housekeeping?: readonly string[];
  /** Makes its services on what is there for all. Nothing runs yet. */
  readonly open: (ground: Ground) => OpenStage;
}

/** A stage in one running controller. */
export interface OpenStage {
  readonly routes: readonly Route[];
  /** Once requests are answered. */
  readonly begin?: () => void | Promise<void>;
  /** Leaves what it is doing where it is, for the next start. Devices may still be heard. */
  readonly end?: () => void | Promise<void>;
  /** Once no device is heard any more: writes down what is not written yet. */
  readonly settle?: () => Promise<void>;
}
