import { flaw, type Flaw } from '../base';
import { readName } from './domain-name';
import { BELOW, BOTH, ITSELF, NameSet } from './name-set';

/** How lists of names are written: hosts files, a name a line, zones of response policies (RPZ), and tables with a column of names. */
export const LIST_FORMS = ['hosts', 'plain', 'rpz', 'csv'] as const;
export type ListForm = (typeof LIST_FORMS)[number];

/** Names of one list, and letters of it; lines whose faults are told by themselves. */
export const [MOST_NAMES, MOST_LETTERS, MOST_FAULTS] = [1_000_000, 100_000_000, 100] as const;

/** What was read of a list. */
export interface NameList {
  readonly names: NameSet;
  readonly form: ListForm;
  /** Lines that say a name which was said before. */
  readonly again: number;
  /** Lines that could not be read: how many, and the first of them. */
  readonly faults: number;
  readonly flaws: readonly (Flaw & { readonly line: number })[];
}
export type ReadList = { readonly ok: true; readonly list: NameList } | { readonly ok: false; readonly reason: string };

/**
 * Reads a list of names. What is no list at all, or too much of one, is refused as a whole; single lines that are wrong are told, and the rest counts.
 * @param form how it is written; absent: that is told from its lines.
 * @param most names that it may have.
 */
export function readNameList(text: string, form: ListForm | null = null, most: number = MOST_NAMES): ReadList {
  if (text.length > MOST_LETTERS)
    return refused(
      `A list has ${MOST_LETTERS.toLocaleString('en')} letters at most; this one has ${text.length.toLocaleString('en')}.`,
    );
  const start = text.charCodeAt(0) === 0xfeff ? 1 : 0;
  const head = text.slice(start, start + 4096);
  if (/^\s*<(?:!doctype|html|head|body|\?xml)/i.test(head))
    return refused('This is a page for a browser, not a list: look for the address of the list itself.');
  if (head.includes('\0')) return refused('This is no text: unpack it first.');
  const meant = form ?? formOf(head);
  const names = new NameSet();
  const flaws: (Flaw & { readonly line: number })[] = [];
  let [again, faults, line, origin] = [0, 0, 0, ''];
  const column = { at: -1 };
  for (let from = start; from < text.length;) {
    const end = text.indexOf('\n', from);
    const to = end < 0 ? text.length : end;
    line++;
    const said = sayingOf(text.slice(from, to).trim(), meant, origin, column);
    from = to + 1;
    if (said.origin !== undefined) origin = said.origin;
    for (const { name: written, kind } of said.entries) {
      const read = readName(written);
      if (!read.ok) {
        faults++;
        if (flaws.length < MOST_FAULTS) flaws.push({ ...read.flaw, line });
        continue;
      }
      if (!names.add(read.name, kind)) again++;
      if (names.size > most)
        return refused(
          `A list has ${most.toLocaleString('en')} names at most; this one has more, from line ${line} on.`,
        );
    }
    if (said.odd) {
      faults++;
      if (flaws.length < MOST_FAULTS) flaws.push({ ...flaw('list.line', said.odd, 'line'), line });
    }
  }
  if (names.size === 0)
    return refused(
      faults > 0 ? `No line of it is a name. Line ${flaws[0]!.line}: ${flaws[0]!.message}` : 'There is no name in it.',
    );
  return { ok: true, list: { names, form: meant, again, faults, flaws } };
}

const refused = (reason: string): ReadList => ({ ok: false, reason });

/** How a list is written, told from its first lines. */
function formOf(head: string): ListForm {
  const lines = head.split('\n').map((each) => each.trim());
  if (lines.some((each) => /^\$(?:TTL|ORIGIN)\b/i.test(each) || /\sSOA\s/i.test(each) || /\sCNAME\s+\S/i.test(each)))
    return 'rpz';
  const own = lines.filter((each) => each !== '' && !each.startsWith('#') && !each.startsWith('!'));
  if (own.some((each) => /^(?:0\.0\.0\.0|127\.0\.0\.1|::1?)\s+\S/.test(each))) return 'hosts';
  if (own[0] && /[,;]/.test(own[0])) return 'csv';
  return 'plain';
}

interface Saying {
  readonly entries: readonly { readonly name: string; readonly kind: number }[];
  readonly origin?: string;
  /** What is wrong with the line as such. */
  readonly odd?: string;
}
const NOTHING: Saying = { entries: [] };

function sayingOf(line: string, form: ListForm, origin: string, column: { at: number }): Saying {
  if (line === '') return NOTHING;
  switch (form) {
    case 'plain':
      return plainLine(line);
    case 'hosts':
      return hostsLine(line);
    case 'rpz':
      return zoneLine(line, origin);
    case 'csv':
      return tableLine(line, column);
  }
}

/** A name a line, with a # or ! before what is said beside: the name and what is below it; `*.` or a dot in front: what is below it alone. */
function plainLine(line: string): Saying {
  const hash = line.search(/[#!]/);
  const said = (hash < 0 ? line : line.slice(0, hash)).trim();
  return said === '' ? NOTHING : { entries: [entryOf(said, BOTH)] };
}

const entryOf = (said: string, kind: number): { readonly name: string; readonly kind: number } => {
  if (said.startsWith('*.')) return { name: said.slice(2), kind: BELOW };
  return said.startsWith('.') ? { name: said.slice(1), kind: BELOW } : { name: said, kind };
};

/** Names that every machine says of itself. */
const OF_EVERYBODY = new Set([
  'localhost',
  'localhost.localdomain',
  'local',
  'broadcasthost',
  'ip6-localhost',
  'ip6-loopback',
  '0.0.0.0',
]);

/** An address, and the names that have it: just those. */
function hostsLine(line: string): Saying {
  const hash = line.indexOf('#');
  const [address, ...names] = (hash < 0 ? line : line.slice(0, hash)).split(/\s+/).filter(Boolean);
  if (address === undefined) return NOTHING;
  if (names.length === 0) return { entries: [], odd: `“${address}” has no name beside it.` };
  if (!/^[0-9a-f:.]+$/i.test(address)) return { entries: [], odd: `“${address}” is no address.` };
  return { entries: names.filter((name) => !OF_EVERYBODY.has(name)).map((name) => ({ name, kind: ITSELF })) };
}

/** A line of a zone of response policies: a name with a target, `*.` in front for what is below it. Those about addresses and servers are no names. */
function zoneLine(line: string, origin: string): Saying {
  if (line.startsWith(';')) return NOTHING;
  const directive = /^\$(\w+)\s+(\S+)/.exec(line);
  if (directive)
    return directive[1]!.toUpperCase() === 'ORIGIN' ? { entries: [], origin: directive[2]!.toLowerCase() } : NOTHING;
  const record = /^(\S+)\s+(?:\d+\s+)?(?:IN\s+)?(CNAME|A|AAAA|TXT)\s+(\S+)/i.exec(line);
  if (!record || record[1] === '@') return NOTHING;
  // A target that lets pass is an exception, and no entry.
  if (/^rpz-passthru\.?$/i.test(record[3]!)) return NOTHING;
  let owner = record[1]!.toLowerCase();
  if (origin !== '' && origin !== '.' && owner.endsWith(`.${origin}`)) owner = owner.slice(0, -origin.length - 1);
  if (/\.rpz-(?:ip|client-ip|nsip|nsdname)$/.test(owner)) return NOTHING;
  return { entries: [entryOf(owner, ITSELF)] };
}

/** A row of a table: the column whose head is a name, a domain or a host, else the first. */
function tableLine(line: string, column: { at: number }): Saying {
  const cells = line.split(/[,;]/).map((cell) => cell.trim().replace(/^"(.*)"$/, '$1'));
  if (column.at < 0) {
    const head = cells.findIndex((cell) => /^(?:name|domain|host|hostname)$/i.test(cell));
    column.at = Math.max(0, head);
    if (head >= 0) return NOTHING;
  }
  const said = cells[column.at] ?? '';
  return said === '' ? { entries: [], odd: 'There is no name in its column.' } : { entries: [entryOf(said, BOTH)] };
}
