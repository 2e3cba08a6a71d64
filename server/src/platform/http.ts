import { randomUUID } from 'node:crypto';
import { STATUS_CODES, type IncomingMessage } from 'node:http';
import type { Flaw } from '@iron-lattice/core/base';
import Koa, { type Context, type Next } from 'koa';
import { constants } from 'node:zlib';
import compress from 'koa-compress';
import helmet from 'koa-helmet';
import type { Logger } from 'pino';
import { AppError } from './app-error';
import type { Caller } from './caller-address';
import { isConnectionLost, isDiskFull, isPoolBusy } from './connection-loss';
import { serveWeb } from './web-root';
import { routerOf, type FindCaller, type Refused, type Route } from './route';

/** How long somebody is asked to wait when we cannot answer now, in seconds. */
const RETRY_SECONDS = 2;
/** Reasons of one refusal that are told, and characters of each: more help nobody. */
const MOST_FLAWS = 20;
const MOST_REASON = 240;

/** What an origin serves, and to whom. */
export interface HttpParts {
  readonly routes: readonly Route[];
  readonly findCaller: FindCaller;
  /** Hears of what somebody asked for who may not have it. */
  readonly refused: Refused;
  /** Folder of the pages for everything that is no route; null where there are none. */
  readonly webRoot: string | null;
  /** Who sends a request, and how. */
  readonly callerOf: (request: IncomingMessage) => Caller;
  /** Whether a request is meant for us, by the host it names. */
  readonly isOurs: (host: string) => boolean;
  readonly log: Logger;
}

/** Puts an application together: safety, the API, and pages for everything else. One for each origin. */
export function httpApp({ routes, findCaller, refused, webRoot, callerOf, isOurs, log }: HttpParts): Koa {
  const app = new Koa();
  app.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code !== 'ERR_STREAM_PREMATURE_CLOSE' && error.code !== 'ECONNRESET') log.error({ error }, 'http');
  });
  app.use((context, next) => {
    const { address, secure } = callerOf(context.req);
    context.request.ip = address;
    Object.defineProperty(context.request, 'secure', { value: secure });
    return next();
  });
  app.use(logged(log));
  app.use(asProblems(log));
  app.use(secured());
  // What is made for one answer is squeezed quickly, what is the same for all well.
  app.use(compress({ filter: (type) => /javascript|css|html|svg|text\/plain/.test(type) }));
  app.use(compress({ filter: (type) => /json/.test(type), br: false, gzip: { level: constants.Z_BEST_SPEED } }));
  app.use(async (context, next) => {
    if (!isOurs(context.get('host')))
      throw new AppError('host.other', 'This request names another host. Set LATTICE_PUBLIC_URL to the name in use.');
    await next();
  });
  app.use(sameOriginOnly);
  const router = routerOf(routes, findCaller, refused);
  app.use(router.routes());
  if (webRoot !== null) app.use(serveWeb(webRoot));
  return app;
}

const logged = (log: Logger) => async (context: Context, next: Next) => {
  const id = randomUUID();
  const started = performance.now();
  context.set('x-request-id', id);
  context.state['requestId'] = id;
  await next();
  const ms = Math.round(performance.now() - started);
  log.info({ id, method: context.method, path: context.path, status: context.status, ms }, 'request');
};

/** Errors as problem documents (RFC 9457); of a bug only its request id is told. */
const asProblems = (log: Logger) => async (context: Context, next: Next) => {
  try {
    await next();
    if (context.status === 404 && context.body === undefined && context.path.startsWith('/api'))
      throw new AppError('thing.unknown', 'There is no such address in the API.');
  } catch (error) {
    const known = error instanceof AppError ? error : (fromHttpError(error) ?? fromDatabase(error));
    if (known && known.status >= 500)
      log.warn(
        { id: context.state['requestId'], code: known.code, method: context.method, path: context.path },
        'not now',
      );
    if (known?.retrySeconds !== undefined || known?.status === 503)
      context.set('retry-after', String(known.retrySeconds ?? RETRY_SECONDS));
    if (!known) log.error({ id: context.state['requestId'], err: error }, 'failed');
    const status = known?.status ?? 500;
    context.status = status;
    context.body = JSON.stringify({
      type: `about:lattice/${known?.code ?? 'internal'}`,
      title: short(known?.message ?? 'Something went wrong on our side. Nothing was changed.', 2 * MOST_REASON),
      status,
      instance: context.state['requestId'] as string,
      ...(known && known.flaws.length > 0 ? { flaws: told(known.flaws) } : {}),
    });
    context.type = 'application/problem+json';
  }
};

const short = (text: string, most: number): string => (text.length > most ? `${text.slice(0, most)}…` : text);

const told = (flaws: readonly Flaw[]): Flaw[] =>
  flaws.slice(0, MOST_FLAWS).map(({ code, message, field }) => ({
    code,
    message: short(message, MOST_REASON),
    ...(field === undefined ? {} : { field: short(field, MOST_REASON) }),
  }));

/** What the database's own trouble is for whoever asked. */
function fromDatabase(error: unknown): AppError | null {
  if (isDiskFull(error))
    return new AppError(
      'disk.full',
      'The disk of the controller is full. Nothing was changed: make room, then try again.',
    );
  if (isConnectionLost(error))
    return new AppError('database.away', 'The database does not answer at the moment. Try again in a few seconds.');
  if (isPoolBusy(error))
    return new AppError('controller.busy', 'The controller is busy at the moment. Try again in a few seconds.');
  return null;
}

/** Errors that the body parser and the router raise about the request itself. */
function fromHttpError(error: unknown): AppError | null {
  const status = (error as { status?: unknown }).status;
  if (typeof status !== 'number' || status < 400 || status > 499) return null;
  if (status === 413) return new AppError('upload.large', 'The request is larger than this address takes.');
  return new AppError('input.invalid', `The request cannot be read: ${STATUS_CODES[status] ?? 'malformed'}.`);
}

function secured() {
  return helmet({
    strictTransportSecurity: false, // plain http on loopback; whoever terminates TLS adds it
    crossOriginEmbedderPolicy: false,
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        baseUri: ["'self'"],
        objectSrc: ["'none'"],
        frameAncestors: ["'none'"],
        formAction: ["'self'"],
        scriptSrc: ["'self'"],
        scriptSrcAttr: ["'none'"],
        workerSrc: ["'self'"],
        connectSrc: ["'self'"],
        fontSrc: ["'self'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        styleSrc: ["'self'", "'unsafe-inline'"], // component styles; scripts stay strict
      },
    },
  });
}

/** Refuses changes that another site's page asks the browser for; programs send neither header. */
async function sameOriginOnly(context: Context, next: Next): Promise<void> {
  if (context.method !== 'GET' && context.method !== 'HEAD') {
    const site = context.get('sec-fetch-site');
    const origin = context.get('origin');
    const own = site ? site === 'same-origin' : !origin || hostOf(origin) === context.host;
    if (!own) throw new AppError('session.cross-site', 'This request came from another site.');
  }
  await next();
}

function hostOf(origin: string): string | null {
  return URL.canParse(origin) ? new URL(origin).host : null;
}
