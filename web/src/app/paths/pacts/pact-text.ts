import { USUAL_LASTS, USUAL_OFFERS, type Pact, type PactWord } from '@iron-lattice/core/intent';
import type { Offer } from '@iron-lattice/core/ike';
import type { SecretRef } from '@iron-lattice/core/base';
import { numberTyped } from '../../ui/number-typed';

/** A tunnel to a gateway of others as its sheet reads. */
export interface PactText {
  readonly name: string;
  readonly at: string;
  readonly own: string;
  readonly other: string;
  /** A key that is typed or made; empty: as it is kept. */
  readonly key: string;
  readonly segments: readonly string[];
  /** Prefixes, parted by `;`. */
  readonly prefixes: string;
  readonly behind: string;
  readonly ike: Offer;
  readonly esp: Offer;
  /** Seconds. */
  readonly lastsIke: string;
  readonly lastsEsp: string;
  /** Whether its people say that it is told something else; and what. */
  readonly says: boolean;
  readonly saysIke: Offer;
  readonly saysEsp: Offer;
  readonly saysOwn: string;
  readonly saysOther: string;
  readonly saysThere: string;
  readonly saysHere: string;
  readonly purpose: string;
}

/** A tunnel as it would be typed. @param here the prefixes of this side, as they follow from what is said. */
export function pactTextOf(pact: Pact | null, here: readonly string[] = []): PactText {
  const { ike, esp } = pact ?? USUAL_OFFERS;
  const { says } = pact ?? {};
  const lasts = pact?.lasts ?? USUAL_LASTS;
  return {
    ...{ name: pact?.name ?? '', at: pact?.at ?? '', own: pact?.own ?? '', other: pact?.other ?? '', key: '' },
    ...{ segments: pact?.segments ?? [], prefixes: written(pact?.prefixes), behind: written(pact?.behind), ike, esp },
    ...{ lastsIke: String(lasts.ike), lastsEsp: String(lasts.esp) },
    ...{ says: Boolean(says), saysIke: says?.ike ?? ike, saysEsp: says?.esp ?? esp },
    ...{ saysOwn: says?.own ?? pact?.other ?? '', saysOther: says?.other ?? pact?.own ?? '' },
    ...{ saysThere: written(says?.there ?? pact?.behind), saysHere: written(says?.here ?? here) },
    purpose: pact?.purpose ?? '',
  };
}

/** What is typed, as a tunnel. @param key what its key is kept as. */
export function pactTyped(text: PactText, key: SecretRef): Omit<Pact, 'id'> {
  const prefixes = read(text.prefixes);
  const lasts = { ike: numberTyped(text.lastsIke) ?? -1, esp: numberTyped(text.lastsEsp) ?? -1 };
  const isUsual = lasts.ike === USUAL_LASTS.ike && lasts.esp === USUAL_LASTS.esp;
  const says: PactWord = {
    ...{ ike: text.saysIke, esp: text.saysEsp, own: text.saysOwn.trim(), other: text.saysOther.trim() },
    ...{ there: read(text.saysThere), here: read(text.saysHere) },
  };
  return {
    ...{ name: text.name.trim(), at: text.at.trim() || null, own: text.own.trim(), other: text.other.trim(), key },
    ...{ ike: text.ike, esp: text.esp, lasts: isUsual ? null : lasts },
    ...{ segments: text.segments, prefixes: prefixes.length > 0 ? prefixes : null, behind: read(text.behind) },
    ...{ says: text.says ? says : null, purpose: text.purpose.trim() || null },
  };
}

const written = (prefixes: readonly string[] | null | undefined): string => (prefixes ?? []).join('; ');
const read = (text: string): string[] =>
  text
    .split(/[;,\s]+/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
