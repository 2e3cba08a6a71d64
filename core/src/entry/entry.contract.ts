import type { EntryRefusal, UnknownReport } from '../line';
import { ENDS, type AskedFor, type Exchange, type SaidPacket } from '../radius';

/** What the controller shows to who signs in, and whom clients believe it by. */
export interface OwnCertificateView {
  /** Name that its certificate is for. */
  readonly name: string;
  /** Last moment of it, ISO 8601; made anew before that. */
  readonly until: string;
  /** The authority’s certificate, as PEM, and its last moment. */
  readonly authority: string;
  readonly authorityUntil: string;
  /** Bits of its key, and of those that it makes certificates for. */
  readonly bits: 256 | 384;
}

/** What a user that the controller keeps would get at a site. */
export interface UserAtSite {
  readonly siteId: string;
  readonly site: string;
  /** SSIDs that ask who somebody is, and how many ports do. */
  readonly ssids: readonly string[];
  readonly ports: number;
  /** Name of the server that is this controller there; null: it is not asked. */
  readonly server: string | null;
  /** Name of the class; null: no group has one there. */
  readonly accessClass: string | null;
  readonly segment: { readonly name: string; readonly vlan: number; readonly subnet: string | null } | null;
  /** What stands in the way of being let in, in words; nothing: they are. */
  readonly lacks: readonly string[];
}

/** Somebody who was known to nobody, or turned away, in the last days. */
export interface EntryFailure extends UnknownClient {
  /** When it was told, ISO 8601. */
  readonly at: string;
}

/** What a client of a device took since it came: octets to it and from it. */
export interface ClientTaken {
  readonly deviceId: string;
  readonly mac: string;
  readonly down: number;
  readonly up: number;
}

/** How a server fares, as devices of a site that asked it lately say. */
export interface ServerHealth {
  readonly name: string;
  /** Devices that it answered when they asked last, and names of those that it did not. */
  readonly answers: number;
  readonly silentFor: readonly string[];
  /** Since when one of these has had no answer, in milliseconds since 1970; null: all have. */
  readonly since: number | null;
}

/** A session that is to end, or to have another class until its client is asked for anew. */
export interface SessionChangeRequest {
  readonly mac: string;
  /** Null: it is to end. */
  readonly classId: string | null;
}

/** What came of it. */
export interface SessionChanged {
  readonly ok: boolean;
  /** Why not. */
  readonly words: string;
  /** In whose name it was wanted; null: no server let the client in, and it was sent away by a plain word. */
  readonly server: string | null;
  /** What went to the device and came back (RFC 5176). */
  readonly packets: readonly SaidPacket[];
}

/** The class of some groups, as it is at a site. */
export interface GroupClass {
  readonly name: string;
  readonly groups: readonly string[];
}

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
  ...(['let-in', 'no-class', 'names-keys', 'unknown-class', 'unknown-segment', 'class-without-segment'] as const),
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
export interface UnknownClient extends Omit<UnknownReport, 'why'> {
  /** The same as it is reported; and of a key of a ring that a server was to name: it names no such `key`, or it leads `nowhere` here. */
  readonly why: UnknownReport['why'] | EntryRefusal | 'key' | 'nowhere';
  readonly deviceId: string;
  readonly deviceName: string;
  /** As it called itself when it asked for an address; empty when it did not. */
  readonly name: string;
}
