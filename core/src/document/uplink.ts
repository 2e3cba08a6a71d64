import type { SecretRef } from '../base';
import { USUAL_WATCH, type TogetherRule, type TogetherUplink, type Watch } from '../paths';

/** An address of its own, such as 203.0.113.11/29, and who takes packets on. */
export interface FixedDocument {
  readonly address: string;
  readonly gateway: string;
}

/** A gateway’s port to a provider. Fields after `translate` are only there where they differ from the usual. */
export interface UplinkDocument {
  readonly port: string;
  readonly method: 'dhcp' | 'static' | 'pppoe' | 'cellular';
  /** Whether addresses from inside are translated on the way out (RFC 3022). */
  readonly translate: boolean;
  readonly fixed?: FixedDocument;
  readonly login?: { readonly user: string; readonly password: SecretRef };
  readonly apn?: string;
  readonly six?: 'slaac' | 'prefix' | 'static';
  readonly fixed6?: FixedDocument;
  readonly vlan?: number;
  readonly mtu?: number;
  /** TCP is not told of packets that fit. */
  readonly clamp?: false;
  readonly mac?: string;
  readonly dns?: readonly string[];
  /** Kilobits a second that it is kept to each way, so that what waits does so at the gateway. */
  readonly shape?: { readonly down: number; readonly up: number };
  /** Its share beside others, or its turn among those that stand by; where neither is said, see `usesOf`. */
  readonly weight?: number;
  readonly standby?: number;
  /** Ports of those that it stands by for; absent: for all that share. */
  readonly instead?: readonly string[];
  /** Absent: as usual, see `USUAL_WATCH`. */
  readonly watch?: Watch;
}

/** How a gateway uses its uplinks together; what is absent is as usual. */
export interface LeavingDocument {
  readonly stay?: false;
  readonly begins?: 'any';
  /** Seconds, or what brings an uplink back that is good again. */
  readonly back?: number | 'hand' | 'never';
  /** What of an uplink that is kept below what it can do the VLANs get while all are busy; one that is not named weighs 1. */
  readonly parts?: readonly { readonly vlan: number; readonly weight: number }[];
}

/** How uplinks are used: of those of which nothing is said the first shares, and the others stand by in their order. */
export const usesOf = (uplinks: readonly UplinkDocument[]): TogetherUplink[] =>
  uplinks.map(({ port, weight, standby, instead }, at) => ({
    port,
    weight: weight ?? 1,
    standby: standby ?? (weight === undefined && at > 0 ? at : null),
    ...(instead ? { instead } : {}),
  }));

/** How they are used together, once all is said. */
export const togetherOf = ({ begins, back = USUAL_BACK }: LeavingDocument = {}): TogetherRule => ({
  begins: begins ?? 'all',
  back,
});
/** Seconds after which an uplink that is good again is used again while nobody says otherwise. */
export const USUAL_BACK = 30;

/** How an uplink is watched, once all is said. */
export const watchOf = ({ watch }: UplinkDocument): Watch => watch ?? USUAL_WATCH;
