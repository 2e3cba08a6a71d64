/** A key as it is kept. */
export interface KeyRow {
  readonly id: string;
  readonly name: string;
  readonly sealed: Buffer;
  readonly segment: string | null;
  readonly access_class: string | null;
  readonly macs: readonly string[];
  readonly most: number | null;
  readonly starts: string | null;
  readonly ends: string | null;
  readonly note: string;
  readonly at: string;
  readonly made_at: Date;
  readonly revoked_at: Date | null;
}

/** What is kept of a master key. */
export interface MasterRow {
  readonly master: Buffer | null;
  readonly master_of: string | null;
}
