import { flaw, type Flaw } from '../base';
import { readPage } from './page';

/** How a text message is handed to a gateway: as a JSON object (RFC 8259), or as a form (`application/x-www-form-urlencoded`). */
export const TEXT_FORMS = ['json', 'form'] as const;

/** The gateway that text messages are handed to, by a POST of HTTP. */
export interface TextFields {
  readonly url: string;
  readonly form: (typeof TEXT_FORMS)[number];
  /** What the number, and the text, are called in it. */
  readonly to: string;
  readonly text: string;
  /** What else stands in it, a line each: `sender=Skerrow`. */
  readonly more: string;
  /** Name of the header field that says who asks; empty: nobody has to. Its value is the secret. */
  readonly header: string;
}
/** How text messages are sent, without the secret. */
export interface TextView {
  readonly fields: TextFields;
  /** Counts the changes. */
  readonly version: number;
  readonly hasSecret: boolean;
}
/** What is to be kept: the version that was seen (0: there was none), and a secret; null: as it is. */
export interface TextChange {
  readonly version: number;
  readonly fields: TextFields;
  readonly secret: string | null;
}

/** Lines besides, characters of a name and of a line. */
export const [MOST_MORE, MOST_NAME, MOST_LINE] = [20, 40, 200];

const NAME = /^[A-Za-z0-9_.-]{1,40}$/;
/** A token of RFC 9110 §5.6.2. */
const HEADER = /^[A-Za-z0-9!#$%&'*+.^_`|~-]{1,40}$/;
/** What a request says by itself, or what would make another of it. */
const OWN_HEADERS = ['host', 'connection', 'content-length', 'content-type', 'transfer-encoding', 'upgrade', 'expect'];

/** What stands in a message besides; null: a line cannot be read. */
export function moreOf(more: string): [name: string, value: string][] | null {
  const lines = more
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');
  const read = lines.map((line): [string, string] => {
    const at = line.indexOf('=');
    return [line.slice(0, Math.max(at, 0)).trim(), line.slice(at + 1).trim()];
  });
  return read.every(([name, value]) => NAME.test(name) && value.length <= MOST_LINE) ? read : null;
}

/** What is wrong with how text messages are to be sent. @param hasSecret whether one is kept, or comes along. */
export function textFlaws(fields: TextFields, hasSecret: boolean): Flaw[] {
  const { url, to, text, more, header } = fields;
  const flaws: Flaw[] = [];
  const say = (field: keyof TextFields | 'secret', message: string): void =>
    void flaws.push(flaw(`texts.${field}`, message, field));
  if (!readPage(url)) say('url', 'Write a whole address, such as https://texts.skerrow.example/send.');
  for (const [field, name] of [
    ['to', to],
    ['text', text],
  ] as const)
    if (!NAME.test(name)) say(field, `A name of ${MOST_NAME} of a–z, 0–9, _, . and - at most.`);
  if (to === text) say('text', 'The number and the text need two names.');
  const read = moreOf(more);
  if (read === null) say('more', 'A line each, such as sender=Skerrow.');
  else if (read.length > MOST_MORE) say('more', `${MOST_MORE} lines at most.`);
  else if (new Set([to, text, ...read.map(([name]) => name)]).size < read.length + (to === text ? 1 : 2))
    say('more', 'Each name stands once.');
  if (header !== '' && (!HEADER.test(header) || OWN_HEADERS.includes(header.toLowerCase())))
    say('header', 'The name of a header field, such as Authorization.');
  if (header !== '' && !hasSecret) say('secret', 'That field needs a value, such as Bearer and a key.');
  return flaws;
}

/** The body of a message, and its media type. @param more as it was checked. */
export function textBody(
  { form, to, text, more }: TextFields,
  number: string,
  words: string,
): { readonly type: string; readonly body: string } {
  const all: [string, string][] = [[to, number], [text, words], ...(moreOf(more) ?? [])];
  if (form === 'json') return { type: 'application/json', body: JSON.stringify(Object.fromEntries(all)) };
  const coded = all.map((pair) => pair.map(formCoded).join('='));
  return { type: 'application/x-www-form-urlencoded', body: coded.join('&') };
}

const formCoded = (text: string): string =>
  encodeURIComponent(text)
    .replace(/[!'()~]/g, (each) => `%${each.charCodeAt(0).toString(16).toUpperCase()}`)
    .replace(/%20/g, '+');
