import type { SecretRef } from '../base';
import type { Offer } from '../ike';

/** A tunnel that a gateway keeps with one of others (IKEv2, RFC 7296). Ordered by name. */
export interface PactDocument {
  readonly name: string;
  /** Address at which the other is found; absent: it is the one that calls. */
  readonly at?: string;
  /** What this gateway names itself, and the other. */
  readonly own: string;
  readonly other: string;
  /** What both know. */
  readonly key: SecretRef;
  /** What it offers for the exchange, and for packets. */
  readonly ike: Offer;
  readonly esp: Offer;
  /** Seconds after which keys of both are made anew. */
  readonly lasts: { readonly ike: number; readonly esp: number };
  /** Prefixes on this side that go in, and those on the other. */
  readonly here: readonly string[];
  readonly there: readonly string[];
  /** Octets of the largest packet that goes in whole. */
  readonly mtu: number;
}

/** One line of a gateway’s table that its tunnels to gateways of others make. */
export interface PactLine {
  readonly prefix: string;
  /** What the tunnel is called. */
  readonly name: string;
  /** What is not in the tunnel while that is down is dropped: it never leaves by an uplink in the clear. */
  readonly drops: boolean;
}

/** The lines that tunnels to gateways of others make: into each what is behind its other end, and nowhere while it is down. */
export const pactLines = (pacts: readonly Pick<PactDocument, 'name' | 'there'>[]): PactLine[] =>
  [false, true].flatMap((drops) =>
    pacts.flatMap(({ name, there }) => there.map((prefix) => ({ prefix, name, drops }))),
  );
