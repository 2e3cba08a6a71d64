import type { SharedCount } from '@iron-lattice/core/assess';
import type { SharedReach } from '@iron-lattice/core/intent';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { reachWords } from '../ui/reach-words';

/** A shared thing in a list of all sites, with how far it goes; null until that is known. */
export interface SharedRow {
  readonly id: string;
  readonly count: SharedCount | null;
}

/** Where a shared thing reaches, in words. */
export const reachColumn = <T extends SharedRow & { readonly reach: SharedReach }>(): TableColumn<T> => ({
  key: 'reach',
  title: 'Reaches',
  text: ({ reach }) => reachWords(reach, '1 site'),
  width: 110,
  groups: true,
});

/** At how many sites it applies now. */
export const sitesColumn = <T extends SharedRow>(title = 'Sites'): TableColumn<T> => ({
  key: 'sites',
  title,
  text: ({ count }) => (count === null ? '…' : String(count.reached)),
  order: ({ count }) => count?.reached ?? 0,
  width: 60,
  mono: true,
  phone: true,
});

/** At how many of them something is missing. @param what it is, such as “its segment”. */
export const lacksColumn = <T extends SharedRow>(what: string, title = 'Lacks'): TableColumn<T> => ({
  key: 'lacks',
  title,
  text: ({ count }) => (count && count.lacking > 0 ? `${what} at ${counted(count.lacking, 'site')}` : ''),
  order: ({ count }) => count?.lacking ?? 0,
  tone: () => 'bad',
  width: 150,
  phone: true,
});

/** What it is for. */
export const purposeColumn = <T extends { readonly purpose?: string | null }>(): TableColumn<T> => ({
  key: 'purpose',
  title: 'What it is for',
  text: ({ purpose }) => purpose ?? '',
  width: 160,
});
