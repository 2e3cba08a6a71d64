import {
  CIPHERS,
  GROUPS,
  HASHES,
  provesItself,
  type CipherName,
  type GroupName,
  type HashName,
  type Offer,
} from './transforms';

/** What both ends use. */
export interface Suite {
  readonly cipher: CipherName;
  /** What makes keys of an exchange, and proves what a cipher does not; null: nothing has to. */
  readonly hash: HashName | null;
  readonly group: GroupName | null;
}

/** What is kept secret: the exchange itself, or the packets of the tunnel. */
export type OfferKind = 'ike' | 'esp';

/** What came of two offers. */
export type Agreed =
  | {
      readonly suite: Suite;
      readonly missing?: never;
      /** What fails once keys are made anew, in a sentence. */ readonly late?: string;
    }
  | { readonly suite: null; readonly missing: string; readonly late?: never };

/**
 * What is chosen of two offers (RFC 7296 §2.7, §3.3): one of each kind that both have, by the order of whose list decides. Ciphers that prove what they carry
 * by themselves are offered apart from those that need a hash (RFC 5282 §8), so that each kind is tried whole. The first keys of packets come without a group
 * (RFC 7296 §1.2): where none is in common, the tunnel stands, and fails when they are made anew.
 * @param first whose order decides. @returns what is missing in a sentence, where they have nothing in common.
 */
export function agreeOn(kind: OfferKind, first: Offer, second: Offer): Agreed {
  const ciphers = common(first.ciphers, second.ciphers);
  const hash = common(first.hashes, second.hashes)[0] ?? null;
  const group = common(first.groups, second.groups)[0] ?? null;
  if (ciphers.length === 0) return { suite: null, missing: lacks('cipher', CIPHERS, first.ciphers, second.ciphers) };
  const needs = (cipher: CipherName): boolean => kind === 'ike' || !provesItself(cipher);
  const cipher = ciphers.find((each) => hash !== null || !needs(each));
  if (cipher === undefined) return { suite: null, missing: lacks('hash', HASHES, first.hashes, second.hashes) };
  const suite = { cipher, hash: needs(cipher) ? hash : null, group };
  if (group !== null || (kind === 'esp' && first.groups.length + second.groups.length === 0)) return { suite };
  const missing = lacks('group', GROUPS, first.groups, second.groups);
  return kind === 'ike' ? { suite: null, missing } : { suite, late: missing };
}

const common = <T>(a: readonly T[], b: readonly T[]): T[] => a.filter((each) => b.includes(each));

function lacks<T extends string>(
  what: string,
  of: Readonly<Record<T, { readonly title: string }>>,
  ...sides: readonly (readonly T[])[]
): string {
  const [here, there] = sides.map((names) => names.map((name) => of[name].title).join('; ') || 'none');
  return `No ${what} in common: one has ${here}, the other ${there}.`;
}

/** A suite in words. */
export const suiteWords = ({ cipher, hash, group }: Suite): string =>
  [
    CIPHERS[cipher].title,
    ...(hash === null ? [] : [HASHES[hash].title]),
    group === null ? 'no group of its own' : `group ${GROUPS[group].title}`,
  ].join(' · ');
