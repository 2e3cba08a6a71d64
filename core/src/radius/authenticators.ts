import { hmac } from '@noble/hashes/hmac.js';
import { md5 } from '@noble/hashes/legacy.js';
import { concatBytes } from '@noble/hashes/utils.js';
import { MESSAGE_AUTHENTICATOR } from './dictionary';
import { HEAD, readPacket, writePacket, type Attribute, type Code, type Packet } from './packet';

/** A packet as it goes onto the wire, with both of its proofs. */
export interface Sealed {
  readonly bytes: Uint8Array;
  readonly authenticator: Uint8Array;
  readonly messageAuthenticator: Uint8Array | null;
}

/** What is to be sealed: where the value of a Message-Authenticator stands among the attributes does not matter. */
export interface Unsealed {
  readonly code: Code;
  readonly id: number;
  readonly attributes: readonly Attribute[];
}

const NOTHING = new Uint8Array(16);

/** A place for the proof of a whole packet. It stands first: what follows cannot be chosen by who forges (CVE-2024-3596). */
export const PROOF: Attribute = { type: MESSAGE_AUTHENTICATOR, value: NOTHING };

/**
 * Seals a request whose authenticator is random (Access-Request, Status-Server): a Message-Authenticator among its attributes is
 * filled in (RFC 3579 §3.2).
 * @param authenticator 16 random octets. @param secret octets.
 */
export function sealAccess(packet: Unsealed, authenticator: Uint8Array, secret: Uint8Array): Sealed {
  const bytes = writePacket({ ...packet, authenticator });
  return { bytes, authenticator, messageAuthenticator: prove(bytes, packet.attributes, secret) };
}

/**
 * Seals a request whose authenticator is a proof itself (Accounting-, CoA- and Disconnect-Request): RFC 2866 §3, RFC 5176 §2.3. The
 * Message-Authenticator comes first, with sixteen octets of nothing as authenticator.
 */
export const sealRequest = (packet: Unsealed, secret: Uint8Array): Sealed => sealOver(packet, NOTHING, secret);

/** Seals an answer to a request (RFC 2865 §3). @param asked the request's authenticator. */
export const sealResponse = (packet: Unsealed, asked: Uint8Array, secret: Uint8Array): Sealed =>
  sealOver(packet, asked, secret);

function sealOver(packet: Unsealed, over: Uint8Array, secret: Uint8Array): Sealed {
  const bytes = writePacket({ ...packet, authenticator: over });
  const messageAuthenticator = prove(bytes, packet.attributes, secret);
  const authenticator = md5(concatBytes(bytes, secret));
  bytes.set(authenticator, 4);
  return { bytes, authenticator, messageAuthenticator };
}

/** Fills in the Message-Authenticator of octets, where there is a place for it. */
function prove(bytes: Uint8Array, attributes: readonly Attribute[], secret: Uint8Array): Uint8Array | null {
  const at = placeOf(attributes);
  if (at === null) return null;
  bytes.fill(0, at, at + 16);
  const proof = hmac(md5, secret, bytes);
  bytes.set(proof, at);
  return proof;
}

/** Where the value of the Message-Authenticator stands; null where there is none, or one that is not whole. */
function placeOf(attributes: readonly Attribute[]): number | null {
  let at = HEAD;
  for (const { type, value } of attributes) {
    if (type === MESSAGE_AUTHENTICATOR) return value.length === 16 ? at + 2 : null;
    at += value.length + 2;
  }
  return null;
}

/** Whether two proofs are the same; it takes as long whatever differs. */
export function sameOctets(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false;
  let differ = 0;
  for (let i = 0; i < a.length; i++) differ |= a[i]! ^ b[i]!;
  return differ === 0;
}

/** What the proof of a whole packet comes to. */
export type Proof = 'right' | 'wrong' | 'missing';

/**
 * What a Message-Authenticator proves (RFC 3579 §3.2).
 * @param over the authenticator that it was worked out over: of a request with a random one its own, of an answer the request's, of
 * others sixteen octets of nothing.
 */
export function proofOf(packet: Packet, over: Uint8Array, secret: Uint8Array): Proof {
  const given = packet.attributes.filter(({ type }) => type === MESSAGE_AUTHENTICATOR);
  if (given.length === 0) return 'missing';
  if (given.length > 1 || given[0]!.value.length !== 16) return 'wrong';
  const bytes = writePacket({ ...packet, authenticator: over });
  const right = prove(bytes, packet.attributes, secret);
  return right && sameOctets(right, given[0]!.value) ? 'right' : 'wrong';
}

/** Whether the authenticator of an answer, or of a request that proves itself by it, is right. @param over as of `proofOf`. */
export const isAuthentic = (packet: Packet, over: Uint8Array, secret: Uint8Array): boolean =>
  sameOctets(md5(concatBytes(writePacket({ ...packet, authenticator: over }), secret)), packet.authenticator);

/** What came as an answer, and whether it is one. */
export type ReadAnswer =
  | { readonly ok: true; readonly packet: Packet; readonly proof: Proof }
  /** `unproven`: somebody answered who does not have our secret; `unsigned`: the proof was demanded and is missing. */
  | { readonly ok: false; readonly fault: 'malformed' | 'other' | 'unproven' | 'unsigned'; readonly why: string };

/**
 * Reads an answer to a request that we sent: of another identifier it is no answer to it, and one that is not proven with our secret is
 * none at all.
 * @param demand whether a Message-Authenticator must be there.
 */
export function readAnswer(
  bytes: Uint8Array,
  asked: { readonly id: number; readonly authenticator: Uint8Array; readonly code: Code },
  secret: Uint8Array,
  demand: boolean,
): ReadAnswer {
  const read = readPacket(bytes);
  if (!read.ok) return { ok: false, fault: 'malformed', why: read.why };
  const { packet } = read;
  if (packet.id !== asked.id)
    return { ok: false, fault: 'other', why: `it answers request ${packet.id}, not ${asked.id}` };
  if (!(ANSWERS[asked.code] ?? []).includes(packet.code))
    return {
      ok: false,
      fault: 'malformed',
      why: `a packet of code ${packet.code} is no answer to one of code ${asked.code}`,
    };
  if (!isAuthentic(packet, asked.authenticator, secret))
    return { ok: false, fault: 'unproven', why: 'its authenticator was not made with our secret' };
  const proof = proofOf(packet, asked.authenticator, secret);
  if (proof === 'wrong') return { ok: false, fault: 'unproven', why: 'its Message-Authenticator is wrong' };
  if (proof === 'missing' && demand)
    return { ok: false, fault: 'unsigned', why: 'it has no Message-Authenticator, which is demanded' };
  return { ok: true, packet, proof };
}

const ANSWERS: Readonly<Partial<Record<Code, readonly Code[]>>> = {
  1: [2, 3, 11],
  4: [5],
  12: [2, 5],
  40: [41, 42],
  43: [44, 45],
};
