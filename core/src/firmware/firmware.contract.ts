import type { FirmwareRelease, FirmwareState } from './release';

/** What a device should do about newer releases without being asked. */
export type FirmwarePolicy = 'leave' | 'window' | 'at-once';

/** A release with how many devices of ours run it. */
export interface ReleaseView extends FirmwareRelease {
  /** Octets of its image. */
  readonly size: number;
  readonly sha256: string;
  readonly running: number;
}

export type UpdateState =
  | 'waiting' // for its turn, its window, or the canary
  | 'sending' // the device fetches and writes the image
  | 'restarting'
  | 'done'
  | 'failed'
  | 'held' // the canary failed: nobody goes on before a person says so
  | 'cancelled';

/** One device's way to a release. */
export interface UpdateView {
  readonly id: string;
  readonly batchId: string;
  readonly deviceId: string;
  readonly name: string;
  readonly siteId: string | null;
  readonly from: string;
  readonly release: string;
  readonly state: UpdateState;
  /** 0 to 100 of fetching and writing. */
  readonly percent: number;
  readonly canary: boolean;
  readonly reason: string | null;
  /** When it may begin, ISO 8601. */
  readonly notBefore: string;
  readonly endedAt: string | null;
}

/** Updates asked for together. */
export interface UpdateBatchView {
  readonly id: string;
  readonly mode: UpdateMode;
  readonly by: string;
  readonly at: string;
  readonly updates: readonly UpdateView[];
}

/** `now`; in each site's `window`; `staged`: one canary each model first, then the rest. */
export type UpdateMode = 'now' | 'window' | 'staged';

export interface UpdateRequest {
  readonly deviceIds: readonly string[];
  /** A release number; absent: the newest of each device's model. */
  readonly release?: string;
  readonly mode: UpdateMode;
}

/** What an update would do for one device, before it is asked for. */
export interface UpdatePlanRow {
  readonly deviceId: string;
  readonly name: string;
  readonly model: string;
  readonly running: string;
  readonly state: FirmwareState;
  /** Releases it goes through. */
  readonly steps: readonly string[];
  readonly canary: boolean;
  readonly notBefore: string;
  /** Why it cannot be updated; null when it can. */
  readonly refusal: string | null;
}
