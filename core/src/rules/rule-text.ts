import { readPorts } from './resolve-rules';
import type { RuleEnd, RuleService } from './rule';

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
  if (named) return { kind: named[1]!.toLowerCase() as (typeof NAMED)[number], name: named[2]!.trim() };
  const plain = WORDS.find((word) => word === words.toLowerCase());
  return plain ? { kind: plain } : { kind: 'addresses', text: words };
}

/** An end as it would be typed. */
export function writeEnd(end: RuleEnd): string {
  if (end.kind === 'addresses') return end.text;
  return 'name' in end ? `${end.kind} ${end.name}` : end.kind;
}

/** Names that an end may be typed as alone, by what they name; the first kind that has the name is meant. */
export type EndNames = Readonly<Partial<Record<(typeof NAMED)[number], readonly string[]>>>;

/**
 * Reads ends parted by commas or lines; a name with a comma stands in double quotes.
 * @param known names that need no word before them.
 */
export function readEnds(text: string, known: EndNames = {}): RuleEnd[] {
  return splitList(text, /[,\n]/).map((part) => {
    // Before anything else: a name may begin with one of our words.
    const wanted = part.toLowerCase();
    for (const kind of NAMED) {
      const name = known[kind]?.find((each) => each.toLowerCase() === wanted);
      if (name !== undefined) return { kind, name };
    }
    return readEnd(part);
  });
}

/** Ends as they would be typed. */
export const writeEnds = (ends: readonly RuleEnd[]): string =>
  ends.map((end) => quoted(writeEnd(end), /[,\n]/)).join(', ');

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
  if (protocol === 'icmp') {
    const kind = /^(\d{1,3})(?:\/(\d{1,3}))?$/.exec(rest);
    const [type, code] = [Number(kind?.[1]), kind?.[2] === undefined ? undefined : Number(kind[2])];
    if (!kind || type > 255 || (code ?? 0) > 255) return null;
    return { protocol, type, ...(code === undefined ? {} : { code }) };
  }
  const [to = '', from] = ` ${rest}`.split(/\sfrom\s/i).map((side) => side.trim());
  const ports = to === '' ? undefined : portList(to);
  const sourcePorts = from === undefined ? undefined : portList(from);
  if (ports === null || sourcePorts === null) return null;
  return { protocol, ...(ports ? { ports } : {}), ...(sourcePorts ? { sourcePorts } : {}) };
}

function portList(text: string): string[] | null {
  const parts = splitList(text, /,/);
  const good = parts.every((part) => /^set\s+\S/i.test(part) || readPorts(part) !== null);
  return good && parts.length > 0 ? parts.map((part) => part.replace(/\s*-\s*/, '-')) : null;
}

/** Services as they would be typed. */
export const writeServices = (services: readonly RuleService[]): string =>
  services.map((service) => quoted(writeService(service), /[;\n]/)).join('; ');

/** One service as it would be typed. */
export function writeService({ protocol, ports, sourcePorts, type, code }: RuleService): string {
  const list = (texts: readonly string[]): string => texts.map((text) => quoted(text, /,/)).join(',');
  const kind = type === undefined ? '' : ` ${type}${code === undefined ? '' : `/${code}`}`;
  const to = ports ? ` ${list(ports)}` : '';
  return `${protocol}${kind}${to}${sourcePorts ? ` from ${list(sourcePorts)}` : ''}`;
}

/** Parts of a list outside double quotes, trimmed, empty ones left out; quotes go away. */
function splitList(text: string, separator: RegExp): string[] {
  const parts: string[] = [];
  let [part, within] = ['', false];
  for (const char of `${text}\n`) {
    if (char === '"') within = !within;
    else if (!within && (separator.test(char) || char === '\n')) {
      if (part.trim() !== '') parts.push(part.trim());
      part = '';
    } else part += char;
  }
  if (part.trim() !== '') parts.push(part.trim());
  return parts;
}

const quoted = (text: string, separator: RegExp): string => (separator.test(text) ? `"${text}"` : text);
