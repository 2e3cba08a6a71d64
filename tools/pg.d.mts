/** A running server of a data folder. */
export interface Postgres {
  readonly port: number;
  readonly data: string;
  readonly urlOf: (database: string) => string;
  /** Starts it again if it has died. @returns whether it had. */
  readonly revive: () => boolean;
  readonly stop: () => void;
}
export function startPostgres(dataRoot: string, options?: { fast?: boolean }): Promise<Postgres>;
export function ensureDatabase(urlOf: (database: string) => string, name: string): Promise<void>;
