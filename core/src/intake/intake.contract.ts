import type { DeviceKind } from '../hardware';
import type { ClientReport } from '../line';
import type { DeviceState } from './device-state';

/** A device as shown in tables and sheets. */
export interface DeviceView {
  readonly id: string;
  readonly siteId: string | null;
  readonly state: DeviceState;
  readonly kind: DeviceKind;
  /** Null until claimed. */
  readonly name: string | null;
  readonly model: string;
  readonly title: string;
  readonly serial: string;
  readonly mac: string;
  readonly firmware: string;
  readonly address: string | null;
  /** First 16 hex digits of the SHA-256 of its public key, as on its label. */
  readonly fingerprint: string;
  /** Neighbour it hangs on, as `name · port`; null when none is known. */
  readonly hangsOn: string | null;
  readonly runs: string | null;
  readonly wants: string | null;
  readonly trouble: string | null;
  readonly heardAt: string | null;
  readonly uptime: number | null;
  readonly clients: readonly ClientReport[];
}

/** A site in the estate's list. */
export interface SiteView {
  readonly id: string;
  readonly name: string;
  readonly code: string;
  readonly country: string;
  readonly timeZone: string;
  readonly devices: Readonly<Record<DeviceState, number>>;
}

export interface EstateView {
  readonly id: string;
  readonly name: string;
  /** Number of the revision that is live; 0 before the first rollout. */
  readonly revision: number;
  readonly sites: readonly SiteView[];
  readonly calling: number;
}

export interface ClaimRequest {
  readonly serials: readonly string[];
}
export interface ClaimResult {
  readonly claimed: readonly DeviceView[];
}
/** What would happen if these serials were claimed now; asked before claiming. */
export interface ClaimPreview {
  readonly names: readonly string[];
}
