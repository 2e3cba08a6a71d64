import type { DeviceRow, DeviceState } from '@iron-lattice/core/intake';
import type { TableColumn } from '../ui/data-rows';

const STATE_ORDER: Readonly<Record<DeviceState, number>> = {
  stuck: 0,
  silent: 1,
  behind: 2,
  calling: 3,
  expected: 4,
  'in step': 5,
};

/** Says how long ago a moment was, in its two largest units at most. */
export function sinceWords(moment: string | null, now: number): string {
  if (moment === null) return '';
  const minutes = Math.max(0, Math.floor((now - Date.parse(moment)) / 60_000));
  if (minutes < 1) return '< 1 min';
  if (minutes < 60) return `${minutes} min`;
  if (minutes < 2880) return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
  return `${Math.floor(minutes / 1440)} days`;
}

const version = (text: string): number =>
  text.split('.').reduce((sum, part) => sum * 1000 + (Number.parseInt(part) || 0), 0);

/** Addresses in their numeric order; none last. */
function addressOrder(text: string | null): number {
  return text === null ? Infinity : text.split('.').reduce((sum, part) => sum * 256 + Number(part), 0);
}

/** Columns of the table of devices. @param siteName names a site; null in a site's own table. */
export function deviceColumns(siteName: ((id: string) => string) | null, now: () => number): TableColumn<DeviceRow>[] {
  const columns: TableColumn<DeviceRow>[] = [
    {
      key: 'state',
      title: 'State',
      text: ({ state, hitches }) => (hitches > 0 ? `${state} !` : state),
      order: ({ state }) => STATE_ORDER[state],
      width: 86,
      groups: true,
      phone: true,
      tone: ({ state, hitches }) => (state === 'stuck' ? 'bad' : hitches > 0 ? 'caution' : ''),
    },
    { key: 'name', title: 'Name', text: ({ name }) => name ?? '', width: 84, mono: true, phone: true },
    ...(siteName
      ? [
          {
            key: 'site',
            title: 'Site',
            text: ({ siteId }: DeviceRow) => (siteId ? siteName(siteId) : ''),
            width: 96,
            groups: true,
          },
        ]
      : []),
    { key: 'model', title: 'Model', text: ({ title, model }) => title || model, width: 126, groups: true },
    { key: 'serial', title: 'Serial', text: ({ serial }) => serial, width: 96, mono: true, phone: true },
    { key: 'mac', title: 'MAC', text: ({ mac }) => mac, width: 138, mono: true, hidden: siteName !== null },
    {
      key: 'address',
      title: 'Address',
      text: ({ address }) => address ?? '',
      order: ({ address }) => addressOrder(address),
      width: 92,
      mono: true,
    },
    {
      key: 'firmware',
      title: 'Firmware',
      text: ({ firmware, firmwareState, updating }) =>
        updating
          ? `→ ${updating}`
          : firmwareState && firmwareState !== 'current' && firmwareState !== 'unlisted'
            ? `${firmware} ${firmwareState}`
            : firmware,
      order: ({ firmware }) => version(firmware),
      width: 98,
      mono: true,
      groups: true,
      tone: ({ firmwareState }) =>
        firmwareState === 'unsupported' ? 'bad' : firmwareState === 'older' ? 'caution' : '',
    },
    {
      key: 'uptime',
      title: 'Up for',
      text: ({ bootedAt }) => sinceWords(bootedAt, now()),
      order: ({ bootedAt }) => (bootedAt === null ? Infinity : -Date.parse(bootedAt)),
      width: 58,
    },
    { key: 'uplink', title: 'Hangs on', text: ({ hangsOn }) => hangsOn ?? '', width: 110, mono: true, groups: true },
    {
      key: 'revision',
      title: 'Revision',
      text: ({ revision }) => (revision === null ? '' : String(revision)),
      order: ({ revision }) => revision ?? -1,
      width: 62,
      groups: true,
    },
    { key: 'tags', title: 'Tags', text: ({ tags }) => tags.join(', '), width: 110, groups: true, hidden: true },
    {
      key: 'trouble',
      title: 'Trouble',
      text: ({ trouble }) => trouble ?? '',
      width: 200,
      hidden: true,
      tone: () => 'bad',
    },
  ];
  return columns;
}
