import { randomBytes } from 'node:crypto';
import type { RadiusServerDocument } from '@iron-lattice/core/document';
import {
  accountingAttributes,
  macAs,
  octetsOfText,
  PROOF,
  readAnswer,
  sealRequest,
  type Asker,
  type ENDED_BY,
} from '@iron-lattice/core/radius';
import type { Box } from '../world/box';
import type { EndedBy, SittingEars, Sitting } from '../world/sittings';
import { hear, type RealPlace } from './server-question';

/** How often a server is told how a session fares, in milliseconds, and sessions that a box tells of at the same time. */
const INTERIM_MS = 600_000;
const MOST_AT_ONCE = 256;

const CAUSES = { left: 'asked', session: 'over', idle: 'idle', 'sent-away': 'reset' } as const satisfies Record<
  EndedBy,
  keyof typeof ENDED_BY
>;

/** What accounting asks of the world. */
export interface Around {
  box(serial: string): Box;
  asker(serial: string, at: string): Asker;
  /** Where a server’s accounting is on this machine, from a box; null: nothing gets there. */
  place(serial: string, server: RadiusServerDocument): RealPlace | null;
  sittingsAt(serial: string): readonly Sitting[];
  /** What the server that let somebody in wants said with its accounting. */
  echoOf(serial: string, mac: string, server: string): readonly string[];
  readonly hurry: () => number;
}

/**
 * Tells servers of sessions that they let in (RFC 2866): when one begins, how it fares, and when it ended and why; the next server where
 * the one that let somebody in does not answer.
 */
export class Accounting implements SittingEars {
  private readonly timers = new Map<string, NodeJS.Timeout>();
  /** What servers want back, by session: it is known no more when one ends. */
  private readonly echoes = new Map<string, readonly string[]>();
  /** Told one after the other, so that no end comes before its beginning. */
  private readonly queues = new Map<string, Promise<void>>();
  private closed = false;

  constructor(private readonly around: Around) {}

  began = (serial: string, sitting: Sitting): void => {
    if (this.serversOf(serial, sitting).length === 0) return;
    const echo = this.around.echoOf(serial, sitting.mac, whoLetIn(sitting)!);
    if (echo.length > 0) this.echoes.set(sitting.id, echo);
    this.tell(serial, sitting, 'start');
    this.wait(serial, sitting);
  };

  ended = (serial: string, sitting: Sitting, by: EndedBy): void => {
    const timer = this.timers.get(sitting.id);
    if (timer) clearTimeout(timer);
    this.timers.delete(sitting.id);
    if (this.serversOf(serial, sitting).length > 0) this.tell(serial, sitting, 'stop', by);
    this.echoes.delete(sitting.id);
  };

  close(): void {
    this.closed = true;
    for (const timer of this.timers.values()) clearTimeout(timer);
    this.timers.clear();
  }

  private wait(serial: string, { id, mac }: Sitting): void {
    const timer = setTimeout(() => {
      const now = this.around.sittingsAt(serial).find((each) => each.mac === mac && each.id === id);
      if (!now) return;
      this.tell(serial, now, 'interim');
      this.wait(serial, now);
    }, INTERIM_MS * this.around.hurry());
    timer.unref();
    this.timers.set(id, timer);
  }

  /** The servers that are told of a session: the one that let it in, then the others. */
  private serversOf(serial: string, sitting: Sitting): readonly RadiusServerDocument[] {
    const by = whoLetIn(sitting);
    if (by === undefined) return [];
    const told = (this.around.box(serial).document.radius?.servers ?? []).filter(
      (each) => each.accounting !== undefined,
    );
    return [...told].sort((a, b) => Number(b.name === by) - Number(a.name === by));
  }

  private tell(serial: string, sitting: Sitting, status: 'start' | 'interim' | 'stop', by?: EndedBy): void {
    if (this.closed || (!this.queues.has(sitting.id) && this.queues.size >= MOST_AT_ONCE)) return;
    const at = Date.now();
    const before = this.queues.get(sitting.id) ?? Promise.resolve();
    const echo = this.echoes.get(sitting.id) ?? [];
    const next = before
      .then(() => this.send(serial, sitting, { status, at, echo, ...(by ? { by } : {}) }))
      .catch(() => {});
    this.queues.set(sitting.id, next);
    void next.finally(() => this.queues.get(sitting.id) === next && this.queues.delete(sitting.id));
  }

  private async send(serial: string, sitting: Sitting, { status, at, echo, by }: Told): Promise<void> {
    const { secrets } = this.around.box(serial);
    const asker = this.around.asker(serial, sitting.at);
    for (const server of this.serversOf(serial, sitting)) {
      const [secret, place] = [secrets[server.secret.secret], this.around.place(serial, server)];
      if (secret === undefined || !place) continue;
      const user = sitting.entered?.user ?? macAs(sitting.mac, server.macs ?? 'none_lower');
      // Another server knows nothing of what that one wants back.
      const back = server.name === whoLetIn(sitting) ? { echo } : {};
      const session = { ...sitting, user, seconds: (at - sitting.since) / 1000, ...back };
      for (let tried = 0; tried < server.tries && !this.closed; tried++) {
        const delay = (Date.now() - at) / 1000;
        const cause = by === undefined ? {} : { cause: CAUSES[by] };
        const attributes = accountingAttributes(asker, status, session, { at: at / 1000, delay, ...cause });
        // What is sent again says another delay, so it is another request (RFC 2866 §5.2).
        if (await heardBy(place, attributes, secret, server.timeout)) return;
      }
    }
  }
}

/** What is told of a session. */
interface Told {
  readonly status: 'start' | 'interim' | 'stop';
  readonly at: number;
  readonly echo: readonly string[];
  readonly by?: EndedBy;
}

/** The server that let somebody in; undefined: none did. */
const whoLetIn = ({ entered, named, keyedBy }: Sitting): string | undefined =>
  entered?.server ?? named?.server ?? keyedBy;

/** Whether a server answers an Accounting-Request that is sent once. @param timeout in seconds. */
async function heardBy(
  place: RealPlace,
  attributes: ReturnType<typeof accountingAttributes>,
  secret: string,
  timeout: number,
): Promise<boolean> {
  const octets = octetsOfText(secret);
  const id = randomBytes(1)[0]!;
  const { bytes, authenticator } = sealRequest({ code: 4, id, attributes: [PROOF, ...attributes] }, octets);
  // An answer to accounting has no Message-Authenticator: its authenticator is its proof.
  const read = (answer: Uint8Array) => readAnswer(answer, { id, authenticator, code: 4 }, octets, false);
  return (await hear(bytes, place, { timeout, tries: 1 }, read)).packet !== null;
}
