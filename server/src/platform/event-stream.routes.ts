import type { LiveEvent } from '@iron-lattice/core/base';
import type { ServerResponse } from 'node:http';
import type { Context } from 'koa';
import { AppError } from './app-error';
import type { Bus } from './bus';
import { route, SIGNED_IN, type Route } from './route';

const BEAT_MS = 20_000;
/** Octets that may wait for one reader; one that does not take more than that is let go, and asks anew. */
const MOST_UNREAD = 1_000_000;
/** Streams of one session: a tab has one. */
const MOST_STREAMS = 32;

/** How a stream finds out whose it is, and whether that session still lives. */
export interface StreamSessions {
  /** Names the session of a request without giving it away. */
  readonly hashOf: (context: Context) => string;
  readonly lives: (tokenHash: string) => Promise<boolean>;
}

/** The event stream (server-sent events, WHATWG HTML §9.2): each event names what changed, not its contents. */
export function eventStreamRoutes(bus: Bus, sessions: StreamSessions): Route[] {
  const streams = new Map<string, Set<ServerResponse>>();
  /** Streams that are told of guests alone. */
  const ofReception = new WeakSet<ServerResponse>();
  const end = (all: Iterable<ServerResponse>): void => {
    for (const response of [...all]) response.end();
  };
  /** One that was ended is among them until it is closed, a moment later. */
  const tell = (response: ServerResponse, text: string): void => {
    if (!response.writableEnded) response.write(text);
  };
  bus.on('signed-out', ({ tokenHash }) => end(streams.get(tokenHash) ?? []));
  // What happened meanwhile was not heard: browsers come back and look at everything again.
  bus.onReopened(() => {
    for (const each of streams.values()) end(each);
  });
  bus.on('live', (event: LiveEvent) => {
    if (streams.size === 0) return;
    const text = `data: ${JSON.stringify(event)}\n\n`;
    for (const each of streams.values())
      for (const response of each) {
        if (event.type !== 'guests' && ofReception.has(response)) continue;
        if (response.writableLength > MOST_UNREAD) response.destroy();
        else tell(response, text);
      }
  });
  return [
    route({
      method: 'get',
      path: '/api/events',
      summary: 'Stream of changes (text/event-stream); ends with the session',
      who: SIGNED_IN,
      handle: ({ context, caller }) => {
        const tokenHash = sessions.hashOf(context);
        const own = streams.get(tokenHash) ?? new Set();
        if (own.size >= MOST_STREAMS)
          throw new AppError('stream.many', `A session follows events in ${MOST_STREAMS} places at most. Close some.`);
        context.respond = false;
        const { req, res } = context;
        res.on('error', () => {}); // one that went away is no fault of ours
        streams.set(tokenHash, own.add(res));
        if (caller.role === 'reception') ofReception.add(res);
        res.writeHead(200, {
          'content-type': 'text/event-stream',
          'cache-control': 'no-store',
          'x-accel-buffering': 'no',
        });
        res.write('retry: 1000\n\n');
        const beat = setInterval(() => {
          tell(res, ': beat\n\n');
          // Its time may be over; while the database is away nobody can tell.
          void sessions.lives(tokenHash).then(
            (lives) => void (lives || res.end()),
            () => undefined,
          );
        }, BEAT_MS);
        const over = (): void => {
          clearInterval(beat);
          own.delete(res);
          if (own.size === 0) streams.delete(tokenHash);
          res.end();
        };
        req.on('close', over);
        res.on('close', over);
      },
    }),
  ];
}
