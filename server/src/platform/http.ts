import { randomUUID } from 'node:crypto';
import { STATUS_CODES } from 'node:http';
import { bodyParser } from '@koa/bodyparser';
import Koa, { type Context, type Next } from 'koa';
import compress from 'koa-compress';
import helmet from 'koa-helmet';
import type { Logger } from 'pino';
import { AppError } from './app-error';
import { serveWeb } from './web-root';
import { routerOf, type FindCaller, type Route } from './route';

const BODY_LIMIT = '1mb';

/** Puts the application together: safety, the API, and the interface for everything else. */
export function httpApp(routes: readonly Route[], findCaller: FindCaller, webRoot: string | null, log: Logger): Koa {
  const app = new Koa();
  app.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code !== 'ERR_STREAM_PREMATURE_CLOSE' && error.code !== 'ECONNRESET') log.error({ error }, 'http');
  });
  app.use(logged(log));
  app.use(asProblems(log));
  app.use(secured());
  app.use(compress({ filter: (type) => /json|javascript|css|html|svg|text\/plain/.test(type) }));
  app.use(sameOriginOnly);
  app.use(bodyParser({ enableTypes: ['json'], jsonLimit: BODY_LIMIT }));
  const router = routerOf(routes, findCaller);
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
    const known = error instanceof AppError ? error : fromHttpError(error);
    if (!known) log.error({ id: context.state['requestId'], err: error }, 'failed');
    const status = known?.status ?? 500;
    context.status = status;
    context.body = JSON.stringify({
      type: `about:lattice/${known?.code ?? 'internal'}`,
      title: known?.message ?? 'Something went wrong on our side. Nothing was changed.',
      status,
      instance: context.state['requestId'] as string,
      ...(known && known.flaws.length > 0 ? { flaws: known.flaws } : {}),
    });
    context.type = 'application/problem+json';
  }
};

/** Errors that the body parser and the router raise about the request itself. */
function fromHttpError(error: unknown): AppError | null {
  const status = (error as { status?: unknown }).status;
  if (typeof status !== 'number' || status < 400 || status > 499) return null;
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
