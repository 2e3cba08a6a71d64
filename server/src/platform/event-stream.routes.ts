import type { LiveEvent } from '@iron-lattice/core/base';
import type { Bus } from './bus';
import { EVERYONE, route, type Route } from './route';

const BEAT_MS = 20_000;

/** The event stream (server-sent events, WHATWG HTML §9.2): each event names what changed, not its contents. */
export const eventStreamRoutes = (bus: Bus): Route[] => [
  route({
    method: 'get',
    path: '/api/events',
    summary: 'Stream of changes (text/event-stream)',
    who: EVERYONE,
    handle: ({ context }) => {
      context.respond = false;
      const { req, res } = context;
      res.writeHead(200, {
        'content-type': 'text/event-stream',
        'cache-control': 'no-store',
        'x-accel-buffering': 'no',
      });
      res.write('retry: 1000\n\n');
      const stop = bus.on('live', (event: LiveEvent) => res.write(`data: ${JSON.stringify(event)}\n\n`));
      const beat = setInterval(() => res.write(': beat\n\n'), BEAT_MS);
      req.on('close', () => {
        clearInterval(beat);
        stop();
        res.end();
      });
    },
  }),
];
