import type { Des } from './mschapv2';

/** What answers a request inside EAP, or why nothing does. */
export type PeerStep =
  | { readonly ok: true; readonly data: Uint8Array }
  | { readonly ok: false; readonly end: 'senseless' | 'other-method' | 'untrusted'; readonly why: string };

/** Who is asked for, and what they have. */
export interface PeerOf {
  readonly name: string;
  readonly password: string;
  readonly random: (octets: number) => Uint8Array;
  readonly des: Des;
}
