/** Languages that a portal speaks by itself; others would have to be written whole. */
export const LANGUAGES = ['en', 'de', 'fr', 'es', 'it', 'pl', 'el', 'ar'] as const;
export type Language = (typeof LANGUAGES)[number];

/** What each calls itself. */
export const LANGUAGE_NAMES: Readonly<Record<Language, string>> = {
  en: 'English',
  de: 'Deutsch',
  fr: 'Français',
  es: 'Español',
  it: 'Italiano',
  pl: 'Polski',
  el: 'Ελληνικά',
  ar: 'العربية',
};

/** Those that are written from right to left. */
export const isRightToLeft = (language: Language): boolean => language === 'ar';

export const isLanguage = (text: string): text is Language => (LANGUAGES as readonly string[]).includes(text);

/**
 * The language of a page: the one that is asked for by name, else the one that the browser wants most among those there are, else the first.
 * @param there at least one; the first stands in for all others.
 * @param wanted `Accept-Language` (RFC 9110 §12.5.4).
 */
export function languageOf(there: readonly Language[], asked: string | undefined, wanted: string): Language {
  if (asked !== undefined && isLanguage(asked) && there.includes(asked)) return asked;
  const ranges = wanted
    .slice(0, 400)
    .split(',')
    .map((each, at) => {
      const [tag = '', ...more] = each.trim().toLowerCase().split(';');
      const q = more.map((part) => /^\s*q=([01](\.\d{0,3})?)\s*$/.exec(part)?.[1]).find((part) => part !== undefined);
      return { language: tag.split('-')[0]!, weight: q === undefined ? 1 : Number(q), at };
    })
    .filter(({ weight }) => weight > 0)
    .sort((a, b) => b.weight - a.weight || a.at - b.at);
  const found = ranges.find(({ language }) => isLanguage(language) && there.includes(language));
  return (found?.language as Language | undefined) ?? there[0]!;
}
