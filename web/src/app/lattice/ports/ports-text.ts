import { DIFFERS } from '../../ui/choice-cell';
import type { PortRow } from './port-rows';

/** Fields with a few values. */
export const FIELDS = [
  {
    key: 'poe',
    label: 'Power',
    options: [
      { value: 'on', label: 'on' },
      { value: 'off', label: 'off' },
    ],
  },
  {
    key: 'priority',
    label: 'When power is short',
    options: [
      { value: 'low', label: 'goes first' },
      { value: 'high', label: 'goes later' },
      { value: 'critical', label: 'goes last' },
    ],
  },
  {
    key: 'speed',
    label: 'Speed',
    options: [
      { value: 'auto', label: 'as both ends agree' },
      ...[10, 100, 1000, 2500, 10_000].map((value) => ({ value, label: `${value} Mb/s` })),
    ],
  },
  {
    key: 'auth',
    label: 'Who may speak',
    options: [
      { value: 'none', label: 'anyone' },
      { value: '802.1X', label: 'who proves who it is (802.1X)' },
      { value: 'mac', label: 'known MAC addresses' },
      { value: '802.1X-mac', label: '802.1X, else a known MAC address' },
      { value: 'mac-802.1X', label: 'a known MAC address, else 802.1X' },
    ],
  },
  {
    key: 'isolated',
    label: 'Clients of isolated ports',
    options: [
      { value: false, label: 'reach each other' },
      { value: true, label: 'are kept apart' },
    ],
  },
] as const;

export const NUMBERS = [
  { key: 'storm', label: 'Broadcasts at most, in %', hint: '100: no limit' },
  { key: 'group', label: 'Acts as one in group', hint: 'Empty: alone' },
] as const;

/** What holds of clients at ports that ask who they are. */
export const HOSTS = [
  { value: 'several', label: 'several' },
  { value: 'one', label: 'one' },
  { value: 'phone', label: 'one, and a desk phone' },
] as const;
export const FALLS = [
  { key: 'guest', label: 'Who does not say who it is', hint: 'Without 802.1X, and not known either' },
  { key: 'rejected', label: 'Who is turned away', hint: '' },
  { key: 'unanswered', label: 'When no server answers', hint: 'Who was let in before stays' },
] as const;
export const ASKED_NUMBERS = [
  { key: 'quiet', label: 'Quiet after a no, in s', hint: 'Usual: 60' },
  { key: 'again', label: 'Asked anew after, in s', hint: 'At the latest; usual: 3600' },
] as const;

/** The ports that are chosen. */
export interface Picked {
  /** Which ports. */
  readonly key: string;
  readonly rows: readonly PortRow[];
}

/** What they have in common, as it is shown. */
export interface PortsText extends Readonly<Record<(typeof FIELDS)[number]['key'], unknown>> {
  readonly dutyId: string;
  readonly untagged: string;
  /** Null: they differ. */
  readonly tagged: readonly string[] | null;
  readonly storm: string;
  readonly group: string;
  readonly quiet: string;
  readonly again: string;
  readonly hosts: unknown;
  readonly voice: unknown;
  readonly guest: unknown;
  readonly rejected: unknown;
  readonly unanswered: unknown;
  /** Id of the hours that it is in use at; null: always. */
  readonly hours: unknown;
  /** Id of the portal that holds whom nobody knows; null: none. */
  readonly portal: unknown;
}

/** What the chosen ports have in common; where they differ it is said. */
export function textOf(rows: readonly PortRow[]): PortsText {
  const common = (key: 'dutyId' | keyof PortRow['setting']): unknown => {
    const values = rows.map(({ setting }) => setting[key] ?? '');
    return values.every((value) => value === values[0]) ? values[0] : DIFFERS;
  };
  const lists = rows.map(({ setting }) => (setting.tagged === 'all' ? ['all'] : setting.tagged));
  const agree = lists.every((list) => String(list) === String(lists[0]));
  const plain = FIELDS.map(({ key }) => [key, common(key)] as const);
  return {
    ...(Object.fromEntries(plain) as Pick<PortsText, (typeof FIELDS)[number]['key']>),
    dutyId: String(common('dutyId')),
    untagged: String(common('untagged')),
    tagged: agree ? (lists[0] ?? []) : null,
    storm: String(common('storm')),
    group: String(common('group')),
    hours: common('hours') || null,
    portal: common('portal') || null,
    quiet: String(common('quiet')),
    again: String(common('again')),
    hosts: common('hosts'),
    voice: common('voice'),
    guest: common('guest'),
    rejected: common('rejected'),
    unanswered: common('unanswered'),
  };
}
