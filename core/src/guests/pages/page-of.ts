import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import type { Language } from '../languages';
import type { Picture } from '../pictures.contract';
import type { Sponsors } from '../sponsors';
import { PORTAL_TEXTS, type PortalTexts } from '../texts/texts';
import type { AskedFields, GuestWay } from '../ways';
import type { Html } from './html';

/** What a page says in one language; empty: what it says by itself. */
export interface PageWords {
  readonly title: string;
  readonly text: string;
  /** What guests agree to. */
  readonly terms: string;
  /** News of the house, beside the way in. */
  readonly news: string;
}

/** Of a portal what its pages show. */
export interface PortalLook {
  readonly ways: readonly GuestWay[];
  readonly asks?: AskedFields | null;
  readonly sponsors?: Sponsors | null;
  readonly account?: { readonly name: string } | null;
  readonly languages: readonly Language[];
  readonly words: Readonly<Partial<Record<Language, PageWords>>>;
  readonly agree?: boolean | null;
  readonly newsLink?: string | null;
  readonly landing?: string | null;
  readonly ground: string;
  readonly accent: string;
  readonly logo?: Picture | null;
  readonly backdrop?: Picture | null;
}

/** What a page is drawn from. */
export interface PageOf {
  readonly portal: PortalLook;
  readonly siteName: string;
  readonly timeZone: string;
  readonly language: Language;
  /** Proves that a form was ours; null on a page without one. */
  readonly proof: string | null;
}

/** A page, and how soon it looks for another by itself, in seconds. */
export interface Drawn {
  readonly title: string;
  readonly body: Html;
  readonly refresh?: number;
  /** Where it leads at once by itself. */
  readonly leadsTo?: string;
}

export const textsOf = (language: Language): PortalTexts => PORTAL_TEXTS[language];

/** What somebody wrote for a portal in a language; where nobody did, in the one that stands in for all. */
export function wordsOf({ words, languages }: PortalLook, language: Language): PageWords & { readonly in: Language } {
  const first = languages[0]!;
  const [own, other] = [words[language], words[first]];
  const pick = (field: keyof PageWords): string => own?.[field] || other?.[field] || '';
  const said = own && Object.values(own).some((text) => text !== '');
  return {
    title: pick('title'),
    text: pick('text'),
    terms: pick('terms'),
    news: pick('news'),
    in: said ? language : first,
  };
}

/** The terms that somebody reads. */
export const termsOf = (portal: PortalLook, language: Language): string => wordsOf(portal, language).terms;

/** A moment by the clock of the site, in the words of the page. @param at milliseconds since 1970. */
export const momentIn = ({ language, timeZone }: Pick<PageOf, 'language' | 'timeZone'>, at: number): string =>
  new Intl.DateTimeFormat(language === 'en' ? 'en-GB' : language, {
    dateStyle: 'medium',
    timeStyle: 'short',
    timeZone,
  }).format(at);

/** Version of the terms that somebody reads, as hexadecimal digits of their SHA-256 (FIPS 180-4): another text is another. */
export const termsVersion = (portal: PortalLook, language: Language): string =>
  bytesToHex(sha256(utf8ToBytes(termsOf(portal, language)))).slice(0, 12);

/** Text whose direction is its own, whatever stands around it (U+2068, U+2069 of Unicode’s UAX 9). */
export const isolated = (text: string): string => `\u2068${text}\u2069`;
