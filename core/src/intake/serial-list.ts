import { formatMac, parseMac } from '../address';
import {
  flaw,
  readColumns,
  spreadsheetDamage,
  type CheckedList,
  type CheckedRow,
  type Flaw,
  type ListColumn,
} from '../base';
import type { FirmwarePolicy } from '../firmware';

type Column = 'serial' | 'model' | 'site' | 'name' | 'mac' | 'tags' | 'firmware';

/** Columns of a serial list, in the order of the sample file. Only the serial number must be there. */
export const SERIAL_COLUMNS: readonly ListColumn<Column>[] = [
  { key: 'serial', headings: ['serial', 'serial number', 'serial no', 's/n', 'sn'], required: true },
  { key: 'model', headings: ['model', 'type', 'product'], required: false },
  { key: 'site', headings: ['site', 'location'], required: false },
  { key: 'name', headings: ['name', 'device name', 'host name', 'hostname'], required: false },
  { key: 'mac', headings: ['mac', 'mac address'], required: false },
  { key: 'tags', headings: ['tags', 'tag'], required: false },
  { key: 'firmware', headings: ['firmware', 'firmware policy'], required: false },
];

/** The sample file people can download. */
export const SERIAL_SAMPLE = [
  SERIAL_COLUMNS.map((column) => column.headings[0]!),
  ['3A1-0149-57', 'GW-4', 'Brinmouth', '', '', 'spare', 'window'],
  ['5C2-0135-55', 'SW-24P', 'bm', 'bm-sw-09', '02:5a:10:00:05:89', '', 'leave'],
  ['7K4-0156-58', 'AP-6E', 'Brinmouth', '', '', 'deck; spare', 'at once'],
] as const;

/** A device that a list announces. */
export interface ExpectedDevice {
  readonly serial: string;
  /** Empty: whatever calls under the serial number will do. */
  readonly model: string;
  readonly siteId: string;
  /** Null: named by the convention when it calls. */
  readonly name: string | null;
  /** Canonical; null when the list does not say. */
  readonly mac: string | null;
  readonly tags: readonly string[];
  readonly policy: FirmwarePolicy;
}

/** What the estate knows that a list is checked against. */
export interface SerialListContext {
  readonly sites: readonly { readonly id: string; readonly name: string; readonly code: string }[];
  /** Models that have a hardware sheet. */
  readonly models: ReadonlySet<string>;
  /** Whom a serial number belongs to, in words, e.g. `bm-ap-01 at Brinmouth`. */
  readonly serials: ReadonlyMap<string, string>;
  /** Who has a device name, in words. */
  readonly names: ReadonlyMap<string, string>;
  /** Who has a MAC address, in words. */
  readonly macs: ReadonlyMap<string, string>;
  /** Site of rows that name none; null when the person looked at no site. */
  readonly siteId: string | null;
}

const MOST_ROWS = 20_000;
const POLICIES: Readonly<Record<string, FirmwarePolicy>> = {
  '': 'leave',
  leave: 'leave',
  window: 'window',
  'at once': 'at-once',
  'at-once': 'at-once',
};

/**
 * Checks a serial list row by row: each row is either good or says what is wrong with it. Linear.
 * @param table rows of cells as text, as read from CSV, XLSX or a typed list.
 */
export function checkSerialList(
  table: readonly (readonly string[])[],
  context: SerialListContext,
): CheckedList<ExpectedDevice> {
  if (table.length > MOST_ROWS + 1)
    return { rows: [], flaws: [flaw('list.long', `A list has ${MOST_ROWS} rows at most; split it.`)] };
  const list = readColumns(table, SERIAL_COLUMNS);
  if (list.flaws.length === 0 && list.rows.length === 0)
    return { rows: [], flaws: [flaw('list.empty', 'The list is empty. Put one device on each line.')] };
  const seen = {
    serials: new Map<string, number>(),
    names: new Map<string, number>(),
    macs: new Map<string, number>(),
  };
  const sites = new Map(
    context.sites.flatMap(({ id, name, code }) => [
      [name.toLowerCase(), id],
      [code, id],
    ]),
  );
  const models = new Map([...context.models].map((model) => [model.toLowerCase(), model]));
  const rows = list.rows.map(({ line, values }): CheckedRow<ExpectedDevice> => {
    const flaws: Flaw[] = [];
    const serial = values.serial.toUpperCase();
    flaws.push(...checkSerial(values.serial, serial, line, seen.serials, context));
    const model = models.get(values.model.toLowerCase());
    if (values.model !== '' && model === undefined) flaws.push(unknownModel(values.model));
    const siteId = values.site === '' ? context.siteId : (sites.get(values.site.toLowerCase()) ?? null);
    if (siteId === null)
      flaws.push(
        values.site === ''
          ? flaw('row.site-none', 'No site is given.', 'site')
          : flaw('row.site-unknown', `There is no site “${values.site}”.`, 'site'),
      );
    const name = values.name.toLowerCase();
    if (name !== '') flaws.push(...checkName(name, line, seen.names, context));
    const { mac, flaws: macFlaws } = checkMac(values.mac, line, seen.macs, context);
    flaws.push(...macFlaws);
    const policy = POLICIES[values.firmware.toLowerCase()];
    if (policy === undefined)
      flaws.push(
        flaw('row.firmware', `“${values.firmware}” is no firmware policy. Use leave, window or at once.`, 'firmware'),
      );
    const tags = readTags(values.tags);
    if (flaws.length > 0) return { line, values, good: null, flaws };
    return {
      line,
      values,
      flaws,
      good: {
        serial,
        model: model ?? '',
        siteId: siteId!,
        name: name === '' ? null : name,
        mac,
        tags,
        policy: policy!,
      },
    };
  });
  return { rows, flaws: list.flaws };
}

/** Tags as people type them: parted by semicolons or commas; small letters, each once. */
export const readTags = (text: string): string[] => [
  ...new Set(
    text
      .split(/[;,]/)
      .map((tag) => tag.trim().toLowerCase())
      .filter((tag) => tag !== ''),
  ),
];

function checkSerial(
  typed: string,
  serial: string,
  line: number,
  seen: Map<string, number>,
  { serials }: SerialListContext,
): Flaw[] {
  if (typed === '') return [flaw('row.serial-empty', 'The serial number is missing.', 'serial')];
  const damage = spreadsheetDamage(typed);
  if (damage) return [flaw('row.spreadsheet', `${damage}. Format the column as text and paste it again.`, 'serial')];
  if (!/^[0-9A-Z][0-9A-Z-]{3,31}$/.test(serial))
    return [flaw('row.serial', `“${typed}” is not a serial number: 4 to 32 letters, digits and hyphens.`, 'serial')];
  const before = seen.get(serial);
  if (before !== undefined)
    return [flaw('row.serial-twice', `${serial} is already on line ${before} of this list.`, 'serial')];
  seen.set(serial, line);
  const holder = serials.get(serial);
  return holder === undefined ? [] : [flaw('row.serial-taken', `${serial} is already known: ${holder}.`, 'serial')];
}

function unknownModel(model: string): Flaw {
  const damage = spreadsheetDamage(model);
  if (damage) return flaw('row.spreadsheet', `${damage}. Format the column as text and paste it again.`, 'model');
  return flaw('row.model-unknown', `There is no hardware sheet for model “${model}”. Supply one first.`, 'model');
}

function checkName(name: string, line: number, seen: Map<string, number>, { names }: SerialListContext): Flaw[] {
  if (!/^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/.test(name))
    return [flaw('row.name', `“${name}” is no device name: small letters, digits and hyphens.`, 'name')];
  const before = seen.get(name);
  if (before !== undefined) return [flaw('row.name-twice', `“${name}” is already on line ${before}.`, 'name')];
  seen.set(name, line);
  const holder = names.get(name);
  return holder === undefined ? [] : [flaw('row.name-taken', `“${name}” is the name of ${holder}.`, 'name')];
}

function checkMac(
  typed: string,
  line: number,
  seen: Map<string, number>,
  { macs }: SerialListContext,
): { mac: string | null; flaws: Flaw[] } {
  if (typed === '') return { mac: null, flaws: [] };
  const refuse = (code: string, message: string) => ({ mac: null, flaws: [flaw(code, message, 'mac')] });
  const value = parseMac(typed);
  if (value === null) {
    const damage = spreadsheetDamage(typed);
    if (damage) return refuse('row.spreadsheet', `${damage}. Format the column as text and paste it again.`);
    return refuse('row.mac', `“${typed}” is not a MAC address, such as 02:5a:10:00:05:89.`);
  }
  if ((value >> 40n) & 1n) return refuse('row.mac-group', `${typed} is a group address; no device has it.`);
  const mac = formatMac(value);
  const before = seen.get(mac);
  if (before !== undefined) return refuse('row.mac-twice', `${mac} is already on line ${before}.`);
  seen.set(mac, line);
  const holder = macs.get(mac);
  return holder === undefined ? { mac, flaws: [] } : refuse('row.mac-taken', `${mac} belongs to ${holder}.`);
}
