import type { Exchange } from '../radius';

export type StepKind =
  | 'associate'
  | 'authenticate'
  | 'asked'
  | 'vlan'
  | 'tunnel'
  | 'link'
  | 'addresses'
  | 'gateway'
  | 'portal'
  | 'rules'
  | 'internet';

/** The object that decided a step. */
export interface Decider {
  readonly kind: 'ssid' | 'class' | 'segment' | 'port' | 'device' | 'uplink' | 'rule' | 'radius' | 'portal';
  readonly id: string;
  readonly name: string;
  readonly port?: string;
}

/** One step of a walk: what was tried, whether it went on, and what decided it. */
export interface WalkStep {
  readonly kind: StepKind;
  readonly passed: boolean;
  readonly title: string;
  readonly detail: string;
  readonly decidedBy: Decider;
  /** Of a `link`: 802.1Q tag on the cable, null untagged. */
  readonly tag?: number | null;
  /** What a server was asked, and said. */
  readonly exchange?: Exchange;
  /** Of `addresses`: what the client is given. */
  readonly address?: string;
}

/** A trace from associating to the internet, or to an address; it ends at the first step that does not pass. */
export interface Walk {
  readonly steps: readonly WalkStep[];
  readonly arrived: boolean;
}

export const pass = (kind: StepKind, title: string, detail: string, decidedBy: Decider): WalkStep => ({
  kind,
  passed: true,
  title,
  detail,
  decidedBy,
});
export const stop = (kind: StepKind, title: string, detail: string, decidedBy: Decider): WalkStep => ({
  ...pass(kind, title, detail, decidedBy),
  passed: false,
});
