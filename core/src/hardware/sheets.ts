import type { HardwareSheet, PortRole, SheetPort } from './hardware-sheet';

/** Ports `first` to `last`, named by their number. */
function ports(first: number, last: number, role: PortRole, speed: number, poe?: number): SheetPort[] {
  return Array.from({ length: last - first + 1 }, (_, i) => ({
    name: `${first + i}`,
    role,
    speed,
    ...(poe === undefined ? {} : { poe }),
  }));
}

const format = 'iron-lattice.hardware/1';

/** The hardware sheets that ship with the product, by model. */
export const HARDWARE_SHEETS: readonly HardwareSheet[] = [
  {
    format,
    model: 'GW-4',
    title: 'Gateway GW-4',
    kind: 'gateway',
    ports: [
      { name: 'wan1', role: 'wan', speed: 2500 },
      { name: 'wan2', role: 'wan', speed: 2500 },
      ...ports(1, 3, 'trunk', 2500),
      { name: '4', role: 'trunk', speed: 2500, either: true },
    ],
    radios: [],
    ssidsPerRadio: 0,
    knownClients: 2048,
    groups: 2,
    rules: 16_384,
  },
  {
    format,
    model: 'GW-3C',
    title: 'Gateway GW-3C with a modem',
    kind: 'gateway',
    ports: [
      { name: 'wan1', role: 'wan', speed: 1000 },
      { name: 'cell', role: 'wan', speed: 300, modem: true },
      ...ports(1, 2, 'trunk', 1000),
      { name: '3', role: 'trunk', speed: 1000, either: true },
    ],
    radios: [],
    ssidsPerRadio: 0,
    knownClients: 512,
    groups: 1,
    rules: 4096,
  },
  {
    format,
    model: 'SW-24P',
    title: 'Switch SW-24P',
    kind: 'switch',
    ports: [...ports(1, 24, 'edge', 1000, 30), ...ports(25, 26, 'trunk', 10000)],
    radios: [],
    ssidsPerRadio: 0,
    knownClients: 2048,
    groups: 8,
    rules: 1024,
    vlans: 512,
    routes: 16,
    poeBudget: 370,
  },
  {
    format,
    model: 'SW-8P',
    title: 'Switch SW-8P',
    kind: 'switch',
    ports: [...ports(1, 8, 'edge', 1000, 30), ...ports(9, 10, 'trunk', 1000)],
    radios: [],
    ssidsPerRadio: 0,
    knownClients: 256,
    groups: 4,
    rules: 256,
    vlans: 64,
    poeBudget: 120,
  },
  {
    format,
    model: 'SW-48P',
    title: 'Switch SW-48P',
    kind: 'switch',
    ports: [...ports(1, 48, 'edge', 1000, 30), ...ports(49, 52, 'trunk', 10000)],
    radios: [],
    ssidsPerRadio: 0,
    knownClients: 4096,
    groups: 16,
    rules: 2048,
    vlans: 1024,
    routes: 64,
    poeBudget: 740,
  },
  {
    format,
    model: 'AP-6',
    title: 'Access point AP-6',
    kind: 'ap',
    ports: [{ name: 'lan', role: 'trunk', speed: 2500 }],
    radios: [
      { band: '2.4', streams: 2, width: 40, eirp: 23 },
      { band: '5', streams: 2, width: 80, eirp: 26 },
    ],
    ssidsPerRadio: 8,
    pooled: 32,
    knownClients: 512,
    rules: 512,
  },
  {
    format,
    model: 'AP-6E',
    title: 'Access point AP-6E',
    kind: 'ap',
    ports: [{ name: 'lan', role: 'trunk', speed: 2500 }],
    radios: [
      { band: '2.4', streams: 2, width: 40, eirp: 23 },
      { band: '5', streams: 2, width: 80, eirp: 26 },
      { band: '6', streams: 2, width: 160, eirp: 26 },
    ],
    ssidsPerRadio: 8,
    pooled: 64,
    knownClients: 2048,
    rules: 1024,
  },
  {
    format,
    model: 'AP-6W',
    title: 'Room access point AP-6W',
    kind: 'ap',
    ports: [{ name: 'lan', role: 'trunk', speed: 1000 }, ...ports(1, 3, 'edge', 1000)],
    radios: [
      { band: '2.4', streams: 2, width: 40, eirp: 23 },
      { band: '5', streams: 2, width: 80, eirp: 26 },
    ],
    ssidsPerRadio: 8,
    pooled: 16,
    knownClients: 256,
    rules: 256,
    vlans: 32,
  },
];

const byModel = new Map(HARDWARE_SHEETS.map((sheet) => [sheet.model, sheet]));

/** The sheet of a model, or undefined for a model we have no sheet of. */
export const sheetOf = (model: string): HardwareSheet | undefined => byModel.get(model);

/** A device as far as its hardware goes: one of a model without a shipped sheet brings its own. */
export interface Modelled {
  readonly model: string;
  /** Supplied for a model we ship no sheet of. */
  readonly sheet?: HardwareSheet;
}

/** The sheet of a device that was let in. @throws RangeError when there is none: then it must not have been. */
export function sheetFor({ model, sheet }: Modelled): HardwareSheet {
  const found = byModel.get(model) ?? sheet;
  if (!found) throw new RangeError(`no hardware sheet for model ${model}`);
  return found;
}
