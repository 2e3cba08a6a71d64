/** Messages that are kept, the latest; octets of one. */
const [MOST_KEPT, MOST_OCTETS] = [200, 10_000];
/** What says who hands a message over, and by which value. */
export const TEXT_KEY = { header: 'x-key', value: 'capstan and cleat' } as const;
/** Nobody has a phone whose number begins so. */
const NOBODY = '+000';

/** A text message that came. */
export interface CaughtText {
  readonly at: string;
  readonly to: string;
  readonly text: string;
}

/** What a gateway answers: as of HTTP (RFC 9110 §15). */
export interface GatewayAnswer {
  readonly status: number;
  readonly words: string;
}

/** A gateway for text messages that keeps what it is given, as JSON or a form with `to` and `text`, and hands nothing on. */
export class TextCatcher {
  private readonly texts: CaughtText[] = [];

  /** The latest first. */
  get all(): readonly CaughtText[] {
    return this.texts;
  }

  /** Takes a message. @param key what was said of who hands it over. */
  take(key: string | undefined, type: string, body: Buffer): GatewayAnswer {
    if (key !== TEXT_KEY.value) return { status: 401, words: `Say who you are: ${TEXT_KEY.header}` };
    if (body.length > MOST_OCTETS) return { status: 413, words: 'Too long' };
    const { to, text } = fieldsOf(type, body.toString('utf8'));
    if (typeof to !== 'string' || typeof text !== 'string' || !/^\+\d{7,15}$/.test(to))
      return { status: 400, words: 'Say to, beginning with +, and text' };
    if (to.startsWith(NOBODY)) return { status: 422, words: 'Nobody has this number' };
    this.texts.unshift({ at: new Date().toISOString(), to, text });
    this.texts.length = Math.min(this.texts.length, MOST_KEPT);
    return { status: 202, words: 'Kept' };
  }
}

function fieldsOf(type: string, body: string): Readonly<Record<string, unknown>> {
  if (!type.startsWith('application/json')) return Object.fromEntries(new URLSearchParams(body));
  const read: unknown = JSON.parse(body);
  return typeof read === 'object' && read !== null ? (read as Record<string, unknown>) : {};
}
