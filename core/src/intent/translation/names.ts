import type { SearchHit } from '../../base';
import { writeEnds } from '../../rules';
import { followIn, namesEnd } from '../ends';
import type { Matches, Naming } from '../noun';
import type { Intent } from '../part';
import type { Translation } from './translation';

const ended = ({ from, to }: Translation) => ({ from, to, services: [] });

/** Translations name whom they are about; they follow it to another name. */
export const namingOfTranslations: Naming = {
  userOf: (part, kind, name) =>
    part.kind === 'site' && part.translations?.some((each) => namesEnd(ended(each), kind, name))
      ? `a translation of ${part.name}`
      : null,
  follow: (part, renamed) => {
    if (part.kind !== 'site' || !part.translations) return part;
    const before = part.translations.map(ended);
    const after = followIn({ list: before }, ['list'], renamed).list;
    if (after === before) return part;
    const translations = part.translations.map((each, i) => ({ ...each, from: after[i]!.from, to: after[i]!.to }));
    return { ...part, translations };
  },
};

/** Translations by name, by whom they are about, or by their pool. */
export function* findTranslations({ sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id: siteId, name: siteName, translations = [] } of sites.values())
    for (const { id, name, from, pool } of translations) {
      const whom = writeEnds(from);
      if (!matches(name, whom, pool ?? '')) continue;
      yield { kind: 'translation', id, siteId, title: name, detail: `Translation of ${siteName}: ${whom}` };
    }
}
