import { readAddresses, readPorts } from './resolve-rules';
import type { RuleEnd, RuleService } from './rule';
import { PROTOCOL } from './service';

/** Ends that are a word alone. */
const WORDS = ['any', 'private', 'internet', 'gateway', 'controller'] as const;
/** Ends that are a word and a name. */
const NAMED = ['segment', 'ssid', 'class', 'set', 'device'] as const;

/**
 * Reads an end as it is typed: `any`, `private`, `internet`, `gateway`, `controller`, `segment NAME`, `ssid NAME`,
 * `class NAME`, `set NAME`, `device NAME`, or a host, prefix or range. Whether names and addresses exist is judged when the rule is
 * resolved.
 */
export function readEnd(text: string): RuleEnd {
  const words = text.trim();
  const named = /^(segment|ssid|class|set|device)\s+(.+)$/i.exec(words);
  if (named) return { kind: named[1]!.toLowerCase() as (typeof NAMED)[number], name: unquoted(named[2]!.trim()) };
  const plain = WORDS.find((word) => word === words.toLowerCase());
  return plain ? { kind: plain } : { kind: 'addresses', text: words };
}

/** An end as it would be typed. */
export function writeEnd(end: RuleEnd): string {
  if (end.kind === 'addresses') return end.text;
  return 'name' in end ? `${end.kind} ${quoted(end.name, /[,\n]/)}` : end.kind;
}

/** Names that an end may be typed as alone, by what they name; the first kind that has the name is meant. */
export type EndNames = Readonly<Partial<Record<(typeof NAMED)[number], readonly string[]>>>;

/**
 * Reads ends parted by commas or lines; a name with a comma stands in double quotes. First comes what is written with the
 * word for its kind and is known as that, then our words and addresses, then names alone: a name may begin with such a word.
 * @param known names that need no word before them.
 */
export function readEnds(text: string, known: EndNames = {}): RuleEnd[] {
  const find = (kind: (typeof NAMED)[number], name: string): string | undefined =>
    known[kind]?.find((each) => each.toLowerCase() === name.toLowerCase());
  return splitList(text, /[,\n]/).map((part) => {
    const end = readEnd(part);
    if ('name' in end ? find(end.kind, end.name) !== undefined : end.kind !== 'addresses' || readAddresses(end.text))
      return end;
    for (const kind of NAMED) {
      const name = find(kind, part);
      if (name !== undefined) return { kind, name };
    }
    return end;
  });
}

/** Ends as they would be typed. */
export const writeEnds = (ends: readonly RuleEnd[]): string =>
  ends.map((end) => (end.kind === 'addresses' ? quoted(end.text, /[,\n]/) : writeEnd(end))).join(', ');

/**
 * Reads services parted by `;` or lines: `any`, `tcp 80,443`, `udp 53 from 1024-65535`, `tcp set Web`, `icmp 8`,
 * `icmp 3/4`, `47`. Ports are parted by commas.
 * @returns what could be read, and the parts that could not.
 */
export function readServices(text: string): { readonly services: RuleService[]; readonly bad: readonly string[] } {
  const bad: string[] = [];
  const services = splitList(text, /[;\n]/).flatMap((part) => {
    const service = readService(part);
    if (!service) bad.push(part);
    return service ? [service] : [];
  });
  return { services, bad };
}

function readService(text: string): RuleService | null {
  const match = /^(any|tcp|udp|icmp|\d{1,3})(?:\s+(.+))?$/i.exec(text.trim());
  if (!match) return null;
  const word = match[1]!.toLowerCase();
  const protocol = /^\d/.test(word) ? Number(word) : (word as 'any' | 'tcp' | 'udp' | 'icmp');
  if (typeof protocol === 'number' && protocol > 255) return null;
  const rest = match[2]?.trim();
  if (rest === undefined) return { protocol };
  if (protocol === 'icmp' || protocol === PROTOCOL.icmp || protocol === PROTOCOL.icmp6) {
    const kind = /^(\d{1,3})(?:\/(\d{1,3}))?$/.exec(rest);
    const [type, code] = [Number(kind?.[1]), kind?.[2] === undefined ? undefined : Number(kind[2])];
    if (!kind || type > 255 || (code ?? 0) > 255) return null;
    return { protocol, type, ...(code === undefined ? {} : { code }) };
  }
  const [to = '', from] = splitOutside(` ${rest}`, /\sfrom\s/iy).map((side) => side.trim());
  const ports = to === '' ? undefined : portList(to);
  const sourcePorts = from === undefined ? undefined : portList(from);
  if (ports === null || sourcePorts === null) return null;
  return { protocol, ...(ports ? { ports } : {}), ...(sourcePorts ? { sourcePorts } : {}) };
}

function portList(text: string): string[] | null {
  const parts = splitList(text, /,/);
  const isSet = (part: string): boolean => /^set\s+\S/i.test(part);
  if (parts.length === 0 || !parts.every((part) => isSet(part) || readPorts(part) !== null)) return null;
  return parts.map((part) => (isSet(part) ? part : part.replace(/\s*-\s*/, '-')));
}

/** Services as they would be typed. */
export const writeServices = (services: readonly RuleService[]): string =>
  services.map((service) => quoted(writeService(service), /[;\n]/)).join('; ');

/** One service as it would be typed. */
export function writeService({ protocol, ports, sourcePorts, type, code }: RuleService): string {
  const list = (texts: readonly string[]): string => texts.map((text) => quoted(text, /,|\bfrom\b/i)).join(',');
  const kind = type === undefined ? '' : ` ${type}${code === undefined ? '' : `/${code}`}`;
  const to = ports ? ` ${list(ports)}` : '';
  return `${protocol}${kind}${to}${sourcePorts ? ` from ${list(sourcePorts)}` : ''}`;
}

/**
 * Parts of a text outside double quotes; within them two quotes stand for one.
 * @param separator sticky; where it matches, a part ends.
 */
function splitOutside(text: string, separator: RegExp): string[] {
  const parts: string[] = [];
  let [start, within] = [0, false];
  for (let at = 0; at < text.length; at++) {
    if (text[at] === '"') within = !within; // two of them are no change
    separator.lastIndex = at;
    const found = within ? null : separator.exec(text);
    if (!found) continue;
    parts.push(text.slice(start, at));
    start = at + found[0].length;
    at = start - 1;
  }
  return [...parts, text.slice(start)];
}

/** Parts of a list, trimmed, empty ones left out; one that is quoted as a whole is what the quotes hold. */
const splitList = (text: string, separator: RegExp): string[] =>
  splitOutside(text, new RegExp(separator, 'y'))
    .map((part) => unquoted(part.trim()))
    .filter((part) => part !== '');

const WHOLE = /^"((?:[^"]|"")*)"$/;
const unquoted = (text: string): string => {
  const inner = WHOLE.exec(text)?.[1];
  return inner === undefined ? text : inner.replaceAll('""', '"').trim();
};

/** In double quotes, where the text would be read as another without them. */
const quoted = (text: string, separator: RegExp): string =>
  separator.test(text) || text.includes('"') ? `"${text.replaceAll('"', '""')}"` : text;
