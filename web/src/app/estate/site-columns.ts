import type { SiteFindings } from '@iron-lattice/core/assess';
import { writeCoordinates, type DeviceState, type SiteView } from '@iron-lattice/core/intake';
import { LEAVING_STATES } from '@iron-lattice/core/paths';
import { LEAVING_WORDS } from '../shell/leaving-words';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';

/** A site as the list shows it. */
export interface SiteRow extends SiteView {
  /** What it comes to in the draft; null while it is being looked at. */
  readonly found: SiteFindings | null;
}

/** What of the sites is listed. */
export const SITE_FILTERS = [
  'All',
  'With findings',
  'Guarantees broken',
  'Draft changes',
  'Behind',
  'Paths lost',
] as const;
export type SiteFilter = (typeof SITE_FILTERS)[number];

/** Whether a site is among those that are asked for. */
export function isListed({ found, behind, paths }: SiteRow, filter: SiteFilter): boolean {
  if (filter === 'With findings') return (found?.errors ?? 0) + (found?.warnings ?? 0) > 0;
  if (filter === 'Guarantees broken') return (found?.broken ?? 0) > 0;
  if (filter === 'Draft changes') return (found?.changes ?? 0) > 0;
  if (filter === 'Paths lost') return paths !== null && paths !== 'whole';
  return filter === 'All' || behind;
}

/** A count that is told once it is known. */
const known = (found: SiteFindings | null, text: (found: SiteFindings) => string): string =>
  found === null ? '…' : text(found);
const devicesIn = (state: DeviceState, hidden = false): TableColumn<SiteRow> => ({
  key: state,
  title: state === 'in step' ? 'In step' : `Devices ${state}`,
  text: ({ devices }) => (devices[state] > 0 ? String(devices[state]) : ''),
  order: ({ devices }) => devices[state],
  width: 74,
  hidden,
  tone: () => (state === 'stuck' ? 'bad' : state === 'in step' ? 'good' : state === 'expected' ? '' : 'caution'),
});

/** Columns of the table of sites. */
export const SITE_COLUMNS: readonly TableColumn<SiteRow>[] = [
  {
    key: 'name',
    title: 'Site',
    text: ({ name }) => name,
    link: ({ id }) => ['/sites', id, 'intake'],
    width: 130,
    phone: true,
  },
  {
    key: 'findings',
    title: 'Findings',
    text: ({ found }) =>
      known(found, ({ errors, warnings }) =>
        [
          ...(errors > 0 ? [counted(errors, 'error')] : []),
          ...(warnings > 0 ? [counted(warnings, 'warning')] : []),
        ].join(', '),
      ),
    order: ({ found }) => (found?.errors ?? 0) * 10_000 + (found?.warnings ?? 0),
    tone: ({ found }) => ((found?.errors ?? 0) > 0 ? 'bad' : 'caution'),
    width: 110,
    phone: true,
  },
  {
    key: 'broken',
    title: 'Guarantees broken',
    text: ({ found }) => known(found, ({ broken }) => (broken > 0 ? String(broken) : '')),
    order: ({ found }) => found?.broken ?? 0,
    tone: () => 'bad',
    width: 104,
  },
  {
    key: 'changes',
    title: 'Draft changes',
    text: ({ found }) => known(found, ({ changes }) => (changes > 0 ? counted(changes, 'device') : '')),
    order: ({ found }) => found?.changes ?? 0,
    tone: () => 'info',
    width: 90,
    phone: true,
  },
  {
    key: 'live',
    title: 'Live',
    text: ({ behind, revision }) =>
      `${behind ? 'behind, ' : ''}${revision > 0 ? `revision ${revision}` : 'as founded'}`,
    order: ({ behind, revision }) => (behind ? 0 : 1e9) + revision,
    tone: ({ behind }) => (behind ? 'caution' : ''),
    width: 112,
    groups: true,
  },
  {
    key: 'paths',
    title: 'Paths',
    text: ({ paths }) => (paths === null ? '' : LEAVING_WORDS[paths]),
    order: ({ paths }) => (paths === null ? 9 : -LEAVING_STATES.indexOf(paths)),
    tone: ({ paths }) => (paths === 'whole' || paths === null ? '' : paths === 'none' ? 'bad' : 'caution'),
    width: 90,
    groups: true,
  },
  devicesIn('in step'),
  devicesIn('behind'),
  devicesIn('silent'),
  devicesIn('stuck'),
  devicesIn('expected', true),
  {
    key: 'hitches',
    title: 'Hitches',
    text: ({ hitches }) => (hitches > 0 ? String(hitches) : ''),
    order: ({ hitches }) => hitches,
    tone: () => 'caution',
    width: 62,
  },
  { key: 'tags', title: 'Tags', text: ({ tags }) => tags.join(', '), width: 100, groups: true },
  { key: 'code', title: 'Short form', text: ({ code }) => code, width: 70, mono: true, hidden: true },
  {
    key: 'drafts',
    title: 'Drafts waiting',
    text: ({ drafts }) => (drafts > 0 ? String(drafts) : ''),
    order: ({ drafts }) => drafts,
    width: 84,
    hidden: true,
  },
  { key: 'address', title: 'Address', text: ({ address }) => address, width: 150, hidden: true },
  {
    key: 'coordinates',
    title: 'Coordinates',
    text: ({ coordinates }) => (coordinates ? writeCoordinates(coordinates) : ''),
    width: 150,
    mono: true,
    hidden: true,
  },
  { key: 'purpose', title: 'What it is for', text: ({ purpose }) => purpose, width: 160, hidden: true },
  { key: 'country', title: 'Country', text: ({ country }) => country, width: 56, groups: true },
  { key: 'zone', title: 'Time zone', text: ({ timeZone }) => timeZone, width: 110, groups: true, hidden: true },
];
