import { createHash } from 'node:crypto';
import { promisify } from 'node:util';
import { constants, gzip } from 'node:zlib';

/** An answer as it goes out. */
export interface PackedAnswer {
  /** A strong validator (RFC 9110 §8.8.3): equal exactly when the octets are. */
  readonly etag: string;
  readonly body: Buffer;
  /** The same compressed, once for all who take it so. */
  readonly zipped: () => Promise<Buffer>;
}

interface Flight {
  readonly done: Promise<PackedAnswer>;
  /** What those wait for who asked after this one had begun. */
  next: Promise<PackedAnswer> | null;
}

/** Answers that are remembered, to know one again that is the same. */
const REMEMBERED = 200;
const compress = promisify(gzip);

/**
 * Answers that are the same for everybody who may have them. Whoever asks while one is worked out waits for the next, which
 * begins after they asked: so none is older than its question, and however many ask, one is worked out at a time.
 */
export class SharedAnswers {
  private readonly flights = new Map<string, Flight>();
  private readonly last = new Map<string, PackedAnswer>();

  get(key: string, compute: () => Promise<unknown>): Promise<PackedAnswer> {
    const flight = this.flights.get(key);
    if (!flight) return this.begin(key, compute);
    flight.next ??= flight.done.then(
      () => this.begin(key, compute),
      () => this.begin(key, compute),
    );
    return flight.next;
  }

  private begin(key: string, compute: () => Promise<unknown>): Promise<PackedAnswer> {
    const done = compute().then((answer) => this.pack(key, answer));
    const flight: Flight = { done, next: null };
    this.flights.set(key, flight);
    const over = (): void => {
      if (flight.next === null && this.flights.get(key) === flight) this.flights.delete(key);
    };
    done.then(over, over);
    return done;
  }

  private pack(key: string, answer: unknown): PackedAnswer {
    const body = Buffer.from(JSON.stringify(answer));
    const etag = `"${createHash('sha256').update(body).digest('base64url')}"`;
    const before = this.last.get(key);
    this.last.delete(key);
    let zipped: Promise<Buffer> | null = null;
    const packed: PackedAnswer =
      before?.etag === etag
        ? before
        : { etag, body, zipped: () => (zipped ??= compress(body, { level: constants.Z_BEST_SPEED })) };
    this.last.set(key, packed);
    if (this.last.size > REMEMBERED) this.last.delete(this.last.keys().next().value!);
    return packed;
  }
}
