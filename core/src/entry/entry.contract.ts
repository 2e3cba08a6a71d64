import type { UnknownReport } from '../line';
import { ENDS, type AskedFor, type Exchange } from '../radius';

/** A question to a RADIUS server of the draft, asked by a device of ours for somebody. */
export interface EntryTestRequest extends AskedFor {
  /** Who asks. */
  readonly deviceId: string;
}

/** What came of it, and what follows from it at the site of who asked. */
export interface EntryTest {
  readonly exchange: Exchange;
  readonly outcome: Outcome;
}

/** How asking for somebody ends, as a person wants to know it: of somebody who is let in, where that leads. */
export const OUTCOMES = [
  ...(['let-in', 'no-class', 'unknown-class', 'unknown-segment', 'class-without-segment'] as const),
  ...ENDS.filter((end) => end !== 'accepted'),
] as const;

export interface Outcome {
  readonly kind: (typeof OUTCOMES)[number];
  /** What happened, and what to do where it is not as wished. */
  readonly words: string;
  readonly advice: string;
  readonly accessClass: { readonly id: string; readonly name: string } | null;
  readonly segment: { readonly id: string; readonly name: string; readonly vlan: number } | null;
}

/** A client that is asked who it is and that nobody knows, as its device tells. */
export interface UnknownClient extends UnknownReport {
  readonly deviceId: string;
  readonly deviceName: string;
  /** As it called itself when it asked for an address; empty when it did not. */
  readonly name: string;
}
