import type { Translation } from '@iron-lattice/core/intent';
import { readEnds, writeEnds, type EndNames } from '@iron-lattice/core/rules';

/** A translation as its sheet reads. */
export interface TranslationText {
  readonly name: string;
  readonly port: string;
  readonly from: string;
  readonly to: string;
  readonly as: Translation['as'];
  readonly pool: string;
  readonly off: boolean;
}

/** A new one. @param port the uplink that is offered first. */
export const newTranslation = (port: string): TranslationText => ({
  ...{ name: '', port, from: '', to: 'internet', as: 'pool', pool: '', off: false },
});

/** A translation as it would be typed. */
export const translationTextOf = ({ name, port, from, to, as, pool, off }: Translation): TranslationText => ({
  ...{ name, port, from: writeEnds(from), to: writeEnds(to), as, pool: pool ?? '', off: off ?? false },
});

export type TranslationFields = Omit<Translation, 'id' | 'deviceId' | 'turn'>;

/** What is typed as a translation. */
export const translationTyped = (
  { name, port, from, to, as, pool, off }: TranslationText,
  known: EndNames,
): TranslationFields => ({
  ...{ name, port, from: readEnds(from, known), to: readEnds(to, known), as },
  pool: as === 'pool' ? pool : null,
  off: off || null,
});

/** As what they are seen, in words. */
export const seenWords = ({ as, pool }: Pick<Translation, 'as' | 'pool'>): string =>
  as === 'uplink' ? 'the uplink’s address' : as === 'itself' ? 'themselves' : (pool ?? '');
