import type { ListColumn } from '../../base';

export type BranchColumn =
  | 'name'
  | 'serial'
  | 'model'
  | 'country'
  | 'timeZone'
  | 'address'
  | 'coordinates'
  | 'tags'
  | 'code'
  | 'uplinks'
  | 'devices'
  | 'segments'
  | 'hubs'
  | 'shares';

/** Columns of a list of branches, in the order of the sample file. What a cell leaves empty is derived, or as all have it. */
export const BRANCH_COLUMNS: readonly ListColumn<BranchColumn>[] = [
  { key: 'name', headings: ['name', 'site', 'branch'], required: true },
  { key: 'serial', headings: ['gateway', 'serial', 'serial number', 'gateway serial'], required: true },
  { key: 'model', headings: ['model', 'gateway model'], required: false },
  { key: 'country', headings: ['country'], required: false },
  { key: 'timeZone', headings: ['time zone', 'timezone', 'zone'], required: false },
  { key: 'address', headings: ['address', 'postal address'], required: false },
  { key: 'coordinates', headings: ['coordinates', 'position'], required: false },
  { key: 'tags', headings: ['tags', 'tag'], required: false },
  { key: 'code', headings: ['short form', 'code'], required: false },
  { key: 'uplinks', headings: ['uplinks', 'uplink'], required: false },
  { key: 'devices', headings: ['more devices', 'devices'], required: false },
  { key: 'segments', headings: ['segments', 'recipes'], required: false },
  { key: 'hubs', headings: ['hubs', 'hub'], required: false },
  { key: 'shares', headings: ['shares'], required: false },
];

/** The sample file people can download. */
export const BRANCH_SAMPLE = [
  BRANCH_COLUMNS.map((column) => column.headings[0]!),
  [
    ...[
      'Harrow Point',
      '3A1-0201-11',
      'GW-4',
      'Ireland',
      '',
      '2 Slipway, Harrow Point',
      '53.3498, -6.2603',
      'terminal',
    ],
    ...['hp', 'dhcp 100/20; wan2 cellular standby', 'SW-24P 5C2-0201-12; AP-6E 7K4-0201-13', '', '', ''],
  ],
  [
    ...['Saltmarsh Pier', '3A1-0202-10', 'GW-4', '', '', '', '', 'pier', ''],
    ...['static 203.0.113.10/29 via 203.0.113.9', '', '', '', ''],
  ],
] as const;
