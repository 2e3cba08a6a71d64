import { flaw, readColumns, sameValue, type CheckedList, type CheckedRow, type Flaw, type ListColumn } from '../base';
import {
  apply,
  normaliseSegment,
  servedFrom,
  spansOf,
  type AddressService,
  type AddressSpan,
  type Intent,
  type Operation,
  type RosterDevice,
  type Segment,
  type Segment6,
  type SegmentFields,
  type ServedFrom,
} from '../intent';
import { proposeSegment } from './segment-proposal';

const COLUMNS = [
  'name',
  'vlan',
  'subnet',
  'gateway',
  'ranges',
  'exclusions',
  'reservations',
  'lease',
  'dns',
  'route',
  'ntp',
  'options',
  'served',
  'domain',
  'purpose',
  'ipv6',
  'isolation',
] as const;
export type SegmentColumn = (typeof COLUMNS)[number];
type Column = SegmentColumn;

const HEADINGS: Readonly<Record<Column, readonly string[]>> = {
  name: ['name', 'segment'],
  vlan: ['vlan id', 'vlan', 'vid'],
  subnet: ['subnet', 'prefix', 'network'],
  gateway: ['gateway', 'gateway address'],
  ranges: ['ranges', 'range', 'addresses'],
  exclusions: ['exclusions', 'excluded'],
  reservations: ['reservations', 'reserved'],
  lease: ['lease seconds', 'lease'],
  dns: ['name servers', 'dns'],
  route: ['default route', 'route'],
  ntp: ['time servers', 'ntp'],
  options: ['options'],
  served: ['served from', 'served by'],
  domain: ['domain name', 'domain'],
  purpose: ['purpose'],
  ipv6: ['ipv6'],
  isolation: ['isolation', 'kept from'],
};

/** Columns of a list of segments, in the order they are written. */
export const SEGMENT_COLUMNS: readonly ListColumn<Column>[] = COLUMNS.map((key) => ({
  key,
  headings: HEADINGS[key],
  required: key === 'name' || key === 'vlan',
}));

/** A row's edit of the draft; `adds`: the segment is new at the site. */
export interface SegmentRow {
  readonly adds: boolean;
  readonly operation: Operation;
}

/** What a list of segments would do, row by row. */
export interface SegmentListPreview extends CheckedList<SegmentRow | null> {
  readonly operations: readonly Operation[];
}

const MOST_ROWS = 1000;

/** A site's segments as rows of text with a heading; reading them back gives the same segments. */
export function segmentTable(segments: readonly Segment[], roster: readonly RosterDevice[]): string[][] {
  return [
    COLUMNS.map((key) => HEADINGS[key][0]!),
    ...segments.map((segment) => {
      const cells = cellsOf(segment, roster);
      return COLUMNS.map((key) => cells[key]);
    }),
  ];
}

/** One segment as text by column. */
export function cellsOf(segment: Segment, roster: readonly RosterDevice[]): Record<Column, string> {
  const { addresses: service, v6 } = segment;
  const spans = (list: readonly AddressSpan[] = []): string =>
    list.map(({ first, last }) => `${first}-${last}`).join('; ');
  return {
    name: segment.name,
    vlan: String(segment.vlan),
    subnet: segment.subnet,
    gateway: segment.gateway,
    ranges: service ? spans(spansOf(service)) : 'none',
    exclusions: spans(service?.exclude),
    reservations: (service?.reservations ?? [])
      .map(({ mac, address, name }) => `${mac} ${address} ${guard(name)}`.trim())
      .join('; '),
    lease: service ? String(service.leaseSeconds) : '',
    dns: (service?.dns ?? []).join('; '),
    route: service?.route ?? '',
    ntp: (service?.ntp ?? []).join('; '),
    options: (service?.options ?? []).map(({ code, value }) => `${code}=${guard(value)}`).join('; '),
    served: service ? sayServed(servedFrom(service), roster) : '',
    domain: segment.domain ?? '',
    purpose: segment.purpose ?? '',
    isolation: APART.filter((from) => segment.isolation?.[from]).join(' '),
    ipv6: v6 ? [v6.prefix, v6.gateway, v6.mode, ...(v6.first ? [`${v6.first}-${v6.last}`] : [])].join(' ') : '',
  };
}

/** A semicolon inside an item, so that it does not part items. */
const guard = (text: string): string => text.replace(/[\\;]/g, '\\$&');
/** Items parted by semicolons. */
const items = (text: string): string[] =>
  (text.match(/(?:\\.|[^;\\])+/g) ?? [])
    .map((item) => item.trim().replace(/\\(.)/g, '$1'))
    .filter((item) => item !== '');

function sayServed(from: ServedFrom, roster: readonly RosterDevice[]): string {
  const name = (id: string): string => roster.find((device) => device.id === id)?.name ?? id;
  if (from.kind === 'gateway') return 'gateway';
  if (from.kind === 'switch') return `switch ${name(from.deviceId)} ${from.address}`;
  if (from.kind === 'relay') return `relay ${from.server}`;
  if (from.how === 'each') return 'each ap';
  return `${from.how === 'one' ? 'one ap' : 'tree'} ${from.deviceIds.map(name).join(' ')}`;
}

/**
 * Checks a list of segments row by row as edits of a site, each on top of the good ones before it: a name that the
 * site has changes that segment, any other adds one. Cells that are absent leave what is there, or are derived.
 * @param idFor makes an id for each new segment.
 */
export function checkSegmentList(
  table: readonly (readonly string[])[],
  intent: Intent,
  siteId: string,
  roster: readonly RosterDevice[],
  idFor: () => string,
): SegmentListPreview {
  const refused = (code: string, message: string): SegmentListPreview => ({
    rows: [],
    flaws: [flaw(code, message)],
    operations: [],
  });
  if (table.length > MOST_ROWS + 1) return refused('list.long', `A list has ${MOST_ROWS} rows at most; split it.`);
  const list = readColumns(table, SEGMENT_COLUMNS);
  if (list.flaws.length === 0 && list.rows.length === 0)
    return refused('list.empty', 'The list is empty. Put one segment on each line.');
  const filled = new Set(headed(table[0] ?? []));
  const operations: Operation[] = [];
  const lines = new Map<string, number>();
  let now = intent;
  const rows = list.rows.map(({ line, values }): CheckedRow<SegmentRow | null> => {
    const bad = (...flaws: Flaw[]): CheckedRow<SegmentRow | null> => ({ line, values, good: null, flaws });
    const key = values.name.toLowerCase();
    const before = lines.get(key);
    if (before !== undefined)
      return bad(flaw('segment.name-taken', `“${values.name}” is already on line ${before} of this list.`, 'name'));
    lines.set(key, line);
    const site = now.sites.get(siteId)!;
    const old = site.segments.find((segment) => segment.name.toLowerCase() === key);
    const read = readRow(values, filled, old, now, siteId, roster, idFor);
    if (!read.ok) return bad(...read.flaws);
    const operation = old
      ? changeOf(siteId, old, read.segment)
      : ({ type: 'segment.add', siteId, segment: read.segment } as const);
    if (!operation) return { line, values, good: { adds: false, operation: noChange(siteId, old!) }, flaws: [] };
    const result = apply(now, operation, (id) => roster.find((device) => device.id === id));
    if (!result.ok) return bad(...result.flaws.map((each) => flaw(each.code, each.message, columnOf(each.field))));
    now = result.intent;
    operations.push(operation);
    return { line, values, good: { adds: !old, operation }, flaws: [] };
  });
  return { rows, flaws: list.flaws, operations };
}

/** Which columns a heading row has; all of them when it is none. */
function headed(head: readonly string[]): Column[] {
  const cells = head.map((cell) =>
    cell
      .trim()
      .toLowerCase()
      .replace(/[_\s]+/g, ' '),
  );
  const found = COLUMNS.filter((key) => HEADINGS[key].some((heading) => cells.includes(heading)));
  return found.length > 0 ? found : [...COLUMNS];
}

const noChange = (siteId: string, { id }: Segment): Operation => ({
  type: 'segment.set',
  siteId,
  segmentId: id,
  from: {},
  to: {},
});

const FIELDS = ['name', 'vlan', 'subnet', 'gateway', 'addresses', 'domain', 'purpose', 'v6', 'isolation'] as const;

/** The edit that makes one segment of another, or null when they are the same. */
export function changeOf(siteId: string, old: Segment, next: Segment): Operation | null {
  const wanted = normaliseSegment(next);
  const from: Partial<SegmentFields> = {};
  const to: Partial<SegmentFields> = {};
  for (const key of FIELDS) {
    if (sameValue(old[key] ?? null, wanted[key] ?? null)) continue;
    Object.assign(from, { [key]: old[key] ?? null });
    Object.assign(to, { [key]: wanted[key] ?? null });
  }
  if (Object.keys(to).length === 0) return null;
  return { type: 'segment.set', siteId, segmentId: old.id, from, to };
}

/** The column that shows a field of a segment. */
function columnOf(field: string | undefined): Column | undefined {
  const map: Readonly<Record<string, Column>> = {
    first: 'ranges',
    last: 'ranges',
    also: 'ranges',
    exclude: 'exclusions',
    leaseSeconds: 'lease',
    from: 'served',
    v6: 'ipv6',
    v6gateway: 'ipv6',
    v6first: 'ipv6',
    v6last: 'ipv6',
  };
  if (field === undefined) return undefined;
  return map[field] ?? COLUMNS.find((column) => column === field);
}

type ReadRow =
  { readonly ok: true; readonly segment: Segment } | { readonly ok: false; readonly flaws: readonly Flaw[] };

function readRow(
  values: Readonly<Record<Column, string>>,
  filled: ReadonlySet<Column>,
  old: Segment | undefined,
  intent: Intent,
  siteId: string,
  roster: readonly RosterDevice[],
  idFor: () => string,
): ReadRow {
  const flaws: Flaw[] = [];
  const vlan = /^\d{1,4}$/.test(values.vlan) ? Number(values.vlan) : 0;
  const typed = { subnet: values.subnet || undefined, gateway: values.gateway || undefined };
  const derived = old ?? (vlan > 0 ? proposeSegment(intent, siteId, vlan, typed) : null);
  const subnet = values.subnet || derived?.subnet || '';
  const gateway = values.gateway || derived?.gateway || '';
  const has = (key: Column): boolean => filled.has(key);
  const addresses = readService(values, has, (old ?? derived)?.addresses ?? null, roster, flaws);
  const isolation = has('isolation') ? readIsolation(values.isolation, flaws) : (old?.isolation ?? null);
  const v6 = has('ipv6') ? readV6(values.ipv6, flaws) : (old?.v6 ?? null);
  if (flaws.length > 0) return { ok: false, flaws };
  const segment: Segment = {
    id: old?.id ?? idFor(),
    name: values.name,
    vlan,
    subnet,
    gateway,
    addresses,
    domain: has('domain') ? values.domain : (old?.domain ?? null),
    purpose: has('purpose') ? values.purpose : (old?.purpose ?? null),
    v6,
    isolation,
    ...(old?.recipeId ? { recipeId: old.recipeId } : {}),
  };
  return { ok: true, segment: normaliseSegment(segment) };
}

/**
 * The segment that texts by column say, as people type them; nothing is derived. What cannot be read is a flaw at its
 * column, and what core's checks say of the segment is not looked at here.
 */
export function segmentFromCells(
  id: string,
  cells: Readonly<Record<SegmentColumn, string>>,
  roster: readonly RosterDevice[],
): { readonly segment: Segment; readonly flaws: readonly Flaw[] } {
  const flaws: Flaw[] = [];
  const segment: Segment = {
    id,
    name: cells.name,
    vlan: /^\s*\d{1,5}\s*$/.test(cells.vlan) ? Number(cells.vlan) : 0,
    subnet: cells.subnet,
    gateway: cells.gateway,
    addresses: readService(cells, () => true, null, roster, flaws),
    domain: cells.domain,
    purpose: cells.purpose,
    v6: readV6(cells.ipv6.trim(), flaws),
    isolation: readIsolation(cells.isolation, flaws),
  };
  return { segment: normaliseSegment(segment), flaws };
}

/** What clients can be kept from, as it is written. */
const APART = ['segments', 'clients', 'gateway'] as const;

function readIsolation(text: string, flaws: Flaw[]): Segment['isolation'] {
  const words = text
    .toLowerCase()
    .split(/[\s,;]+/)
    .filter((word) => word !== '' && word !== 'none');
  const bad = words.find((word) => !APART.some((from) => from === word));
  if (bad !== undefined)
    flaws.push(flaw('segment.isolation', `“${bad}” is none of segments, clients and gateway.`, 'isolation'));
  return Object.fromEntries(words.map((word) => [word, true]));
}

function readService(
  values: Readonly<Record<Column, string>>,
  has: (key: Column) => boolean,
  base: AddressService | null,
  roster: readonly RosterDevice[],
  flaws: Flaw[],
): AddressService | null {
  if (values.ranges.trim().toLowerCase() === 'none') return null;
  const ranges = spansIn(values.ranges, 'ranges', flaws);
  const { also, exclude, reservations, dns, route, ntp, options, from } = base ?? {};
  const main = ranges[0] ?? base;
  if (!main) return null;
  const list = <T>(key: Column, kept: readonly T[] | undefined, read: (text: string) => T[]): readonly T[] =>
    has(key) ? read(values[key]) : (kept ?? []);
  const servedBy = has('served') && values.served !== '' ? readServed(values.served, roster, flaws) : from;
  const said = has('route') ? values.route : (route ?? '');
  return {
    first: main.first,
    last: main.last,
    leaseSeconds: /^\d+$/.test(values.lease.trim()) ? Number(values.lease) : (base?.leaseSeconds ?? 28_800),
    also: ranges.length > 0 ? ranges.slice(1) : (also ?? []),
    exclude: list('exclusions', exclude, (text) => spansIn(text, 'exclusions', flaws)),
    reservations: list('reservations', reservations, (text) =>
      items(text).map((item) => {
        const [, mac = item, address = '', name = ''] = /^(\S+)\s+(\S+)(?:\s+(.*))?$/.exec(item) ?? [];
        return { mac, address, name };
      }),
    ),
    dns: list('dns', dns, (text) => text.split(/[;,\s]+/).filter(Boolean)),
    ntp: list('ntp', ntp, (text) => text.split(/[;,\s]+/).filter(Boolean)),
    options: list('options', options, (text) =>
      items(text).map((item) => {
        const [code, ...value] = item.split('=');
        return { code: Number(code), value: value.join('=') };
      }),
    ),
    ...(said === '' ? {} : { route: said.toLowerCase() }),
    ...(servedBy ? { from: servedBy } : {}),
    ...(base?.off ? { off: true } : {}),
  };
}

function spansIn(text: string, column: Column, flaws: Flaw[]): AddressSpan[] {
  return items(text).map((item) => {
    const [first = '', last = first, ...more] = item.split(/\s*[-–]\s*/);
    if (more.length > 0)
      flaws.push(flaw('segment.range-malformed', `“${item}” is no range, such as 10.1.10.20-10.1.10.254.`, column));
    return { first, last };
  });
}

function readServed(text: string, roster: readonly RosterDevice[], flaws: Flaw[]): ServedFrom {
  const words = text.trim().split(/[\s,]+/);
  const [first = '', second = ''] = words.map((word) => word.toLowerCase());
  const idOf = (name: string): string => {
    const device = roster.find((each) => each.name.toLowerCase() === name.toLowerCase());
    if (!device) flaws.push(flaw('segment.server-unknown', `There is no device “${name}” at the site.`, 'served'));
    return device?.id ?? '';
  };
  if (first === 'gateway') return { kind: 'gateway' };
  if (first === 'relay') return { kind: 'relay', server: words[1] ?? '' };
  if (first === 'switch') return { kind: 'switch', deviceId: idOf(words[1] ?? ''), address: words[2] ?? '' };
  if (first === 'each' && second === 'ap') return { kind: 'ap', how: 'each', deviceIds: [] };
  if (first === 'one' && second === 'ap') return { kind: 'ap', how: 'one', deviceIds: words.slice(2).map(idOf) };
  if (first === 'tree') return { kind: 'ap', how: 'tree', deviceIds: words.slice(1).map(idOf) };
  const message = `“${text}” is none of: gateway, switch NAME ADDRESS, relay ADDRESS, each ap, one ap NAME, tree NAME NAME.`;
  flaws.push(flaw('segment.served-malformed', message, 'served'));
  return { kind: 'gateway' };
}

function readV6(text: string, flaws: Flaw[]): Segment6 | null {
  if (text === '') return null;
  const [prefix = '', gateway = '', mode = 'slaac', range] = text.split(/\s+/);
  if (mode !== 'slaac' && mode !== 'stateless' && mode !== 'stateful') {
    flaws.push(flaw('segment.v6-mode', `“${mode}” is none of slaac, stateless, stateful.`, 'ipv6'));
    return null;
  }
  const [first, last] = range?.split('-') ?? [];
  return { prefix, gateway, mode, ...(first && last ? { first, last } : {}) };
}
