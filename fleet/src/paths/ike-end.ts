import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { agreeOn, narrowed, suiteWords, type HashName, type Offer, type Suite } from '@iron-lattice/core/ike';
import type { PactStep } from '@iron-lattice/core/paths';

/** What one end of a tunnel is told of it, in its own words. */
export interface IkeSide {
  readonly own: string;
  readonly other: string;
  readonly key: string;
  readonly ike: Offer;
  readonly esp: Offer;
  /** Prefixes on its side, and on the other. */
  readonly here: readonly string[];
  readonly there: readonly string[];
}

/** Why an end turns something down (RFC 7296 §3.10.1). */
type Refusal = 'NO_PROPOSAL_CHOSEN' | 'AUTHENTICATION_FAILED' | 'TS_UNACCEPTABLE';

interface FirstAnswer {
  readonly suite: Suite;
  readonly nonce: Buffer;
}
interface Proof {
  readonly own: string;
  readonly other: string;
  readonly auth: Buffer;
  readonly esp: Offer;
  readonly here: readonly string[];
  readonly there: readonly string[];
}
interface ProofAnswer {
  readonly auth: Buffer;
  readonly packets:
    { readonly suite: Suite; readonly here: readonly string[]; readonly there: readonly string[] } | Refusal;
}

/** What two ends have agreed on, as the one that is asked sees it. */
export interface Stood {
  readonly ike: string;
  readonly esp: string;
  readonly here: readonly string[];
  readonly there: readonly string[];
}
/** How far two ends came. */
export type Talked =
  | { readonly step: 'stands'; readonly stood: Stood; readonly why?: never }
  | { readonly step: Exclude<PactStep, 'stands'>; readonly stood?: never; readonly why: string };

/** Its keys come without a group at first (RFC 7296 §1.2). */
const first = (esp: Offer): Offer => ({ ...esp, groups: [] });

/** One end of a tunnel, as it answers the other by what it was told. */
export class IkeEnd {
  constructor(readonly side: IkeSide) {}

  /** The first word: what the exchange is kept secret by. */
  first(offer: Offer): FirstAnswer | Refusal {
    const { suite } = agreeOn('ike', this.side.ike, offer);
    return suite ? { suite, nonce: randomBytes(32) } : 'NO_PROPOSAL_CHOSEN';
  }

  /** What proves that it has the key (RFC 7296 §2.15). @param nonces of both. */
  prove(suite: Suite, nonces: Buffer, name: string): Buffer {
    const hash = HASH[suite.hash!];
    const pad = createHmac(hash, this.side.key).update('Key Pad for IKEv2').digest();
    return createHmac(hash, pad).update(nonces).update(name.toLowerCase()).digest();
  }

  /** Whether it knows who calls, and finds the proof right. */
  knows({ own, other, auth }: Pick<Proof, 'own' | 'other' | 'auth'>, suite: Suite, nonces: Buffer): boolean {
    const isNamed = same(own, this.side.other) && same(other, this.side.own);
    return isNamed && timingSafeEqual(auth, this.prove(suite, nonces, own));
  }

  /** The second word: who both are, and what goes in. */
  second(proof: Proof, suite: Suite, nonces: Buffer): ProofAnswer | Refusal {
    if (!this.knows(proof, suite, nonces)) return 'AUTHENTICATION_FAILED';
    const auth = this.prove(suite, nonces, this.side.own);
    const packets = agreeOn('esp', first(this.side.esp), first(proof.esp)).suite;
    if (!packets) return { auth, packets: 'NO_PROPOSAL_CHOSEN' };
    const here = narrowed(proof.here, this.side.there);
    const there = narrowed(proof.there, this.side.here);
    if (here.length === 0 || there.length === 0) return { auth, packets: 'TS_UNACCEPTABLE' };
    return { auth, packets: { suite: packets, here, there } };
  }

  /** Keys of packets are made anew. */
  renews = (offer: Offer): boolean => {
    const { suite, late } = agreeOn('esp', this.side.esp, offer);
    return suite !== null && late === undefined;
  };
}

const HASH: Readonly<Record<HashName, string>> = {
  'sha2-256': 'sha256',
  'sha2-384': 'sha384',
  'sha2-512': 'sha512',
  sha1: 'sha1',
};
const same = (a: string, b: string): boolean => a.toLowerCase() === b.toLowerCase();

/** What two ends say to each other, from the first word to packets. @param ours whether ours calls; it is what is told, in our gateway’s words. */
export function talk(calling: IkeEnd, called: IkeEnd, ours: 'calls' | 'called'): Talked {
  const [it, us] = ours === 'calls' ? [called.side, calling.side] : [calling.side, called.side];
  const begun = called.first(calling.side.ike);
  if (begun === 'NO_PROPOSAL_CHOSEN') {
    const { missing } = agreeOn('ike', us.ike, it.ike);
    const why =
      ours === 'calls'
        ? 'It turns down what is offered for the exchange (NO_PROPOSAL_CHOSEN).'
        : `What it offers for the exchange is turned down. ${missing ?? ''}`;
    return { step: 'offers', why };
  }
  if (typeof begun === 'string') return { step: 'offers', why: begun };
  const { suite } = begun;
  const nonces = Buffer.concat([randomBytes(32), begun.nonce]);
  const { own, other, esp, here, there } = calling.side;
  const auth = calling.prove(suite, nonces, own);
  const answered = called.second({ own, other, auth, esp, here, there }, suite, nonces);
  if (typeof answered === 'string') return { step: 'proves', why: turnedDown(us, it, ours, suite) };
  // Who called looks at the other’s proof as well.
  if (!calling.knows({ own: called.side.own, other: called.side.other, auth: answered.auth }, suite, nonces))
    return { step: 'proves', why: turnedDown(us, it, ours, suite) };
  const { packets } = answered;
  if (packets === 'NO_PROPOSAL_CHOSEN')
    return {
      step: 'packets',
      why: 'Both know each other, and have no cipher for packets in common (NO_PROPOSAL_CHOSEN).',
    };
  if (typeof packets === 'string')
    return { step: 'whose', why: 'Both know each other, and nothing is in what both say goes in (TS_UNACCEPTABLE).' };
  const [mine, theirs] = ours === 'calls' ? [packets.here, packets.there] : [packets.there, packets.here];
  return {
    step: 'stands',
    stood: { ike: suiteWords(suite), esp: suiteWords(packets.suite), here: mine, there: theirs },
  };
}

/** Whoever is turned down is not told why; whoever turns down knows. */
function turnedDown(us: IkeSide, it: IkeSide, ours: 'calls' | 'called', { hash }: Suite): string {
  if (ours === 'calls')
    return `It turns us down (AUTHENTICATION_FAILED): it has another key, or does not know us as “${us.own}” and itself as “${us.other}”.`;
  if (!same(it.own, us.other)) return `It names itself “${it.own}”, and is expected to be “${us.other}”.`;
  if (!same(it.other, us.own)) return `It asks for “${it.other}”, and this is “${us.own}”.`;
  return `Its proof is wrong (${hash}): it has another key.`;
}
