import type { PersonView, Role } from '@iron-lattice/core/base';
import { bodyParser } from '@koa/bodyparser';
import Router from '@koa/router';
import { Joi, type Schema } from '@iron-lattice/core/schema';
import type { Context } from 'koa';
import { AppError } from './app-error';
import { SharedAnswers, type PackedAnswer } from './shared-answers';

/** Who calls. */
export type Caller = PersonView;

/** What a handler is given: everything in it has been validated. */
export interface Call<Body = unknown> {
  readonly params: Readonly<Record<string, string>>;
  readonly query: Readonly<Record<string, string>>;
  readonly body: Body;
  /** What was uploaded; empty for routes that take none. */
  readonly upload: Buffer;
  /** Who calls. @throws never: routes for `anyone` must not read it. */
  readonly caller: Caller;
  readonly context: Context;
}

/** One route: who may call it and what it takes are part of it, and what the API document is made from. */
export interface Route {
  readonly method: 'get' | 'post' | 'patch' | 'delete';
  /** With `:name` parameters; each needs an entry in `params`. */
  readonly path: string;
  readonly summary: string;
  readonly who: 'anyone' | readonly Role[];
  readonly params?: Readonly<Record<string, Schema>>;
  readonly query?: Readonly<Record<string, Schema>>;
  readonly body?: Schema;
  /** Most octets of a file that is the body instead, as `application/octet-stream`. */
  readonly upload?: number;
  /** Whether the answer is the same for everybody who may have it: then one is worked out for all who ask meanwhile. */
  readonly shared?: true;
  /** Status of success; 200 when absent. */
  readonly status?: number;
  /** @returns the JSON answer; undefined when the handler answered by itself. */
  readonly handle: (call: Call<never>) => unknown;
}

/** Octets from which an answer is compressed. */
const ZIPPED_FROM = 1024;
/** Octets of a body that anyone may send, and of one from somebody who is signed in. */
export const BODY_LIMIT = { anyone: 16_384, caller: 1_000_000 } as const;
/** A body longer than this is refused with the first thing that is wrong with it: thousands of reasons help nobody. */
const SHORT_BODY = 16_384;

/** Most octets of a route's body. */
export const bodyLimitOf = ({ who }: Route): number => BODY_LIMIT[who === 'anyone' ? 'anyone' : 'caller'];

const PARSERS = {
  anyone: bodyParser({ enableTypes: ['json'], jsonLimit: BODY_LIMIT.anyone }),
  caller: bodyParser({ enableTypes: ['json'], jsonLimit: BODY_LIMIT.caller }),
};

/** Everyone who may look at the estate. */
export const EVERYONE: readonly Role[] = ['administrator', 'observer'];
/** Everyone who may look at the estate, and reception, which may not. */
export const SIGNED_IN: readonly Role[] = [...EVERYONE, 'reception'];
/** Who gives guests their codes. */
export const RECEPTION: readonly Role[] = ['reception'];
/** Who may change things. */
export const CHANGERS: readonly Role[] = ['administrator'];
/** Schema of the ids in paths. */
export const ID = Joi.string().uuid().required();
/** What was live before: a revision by its number, or a moment. */
export const THEN = Joi.string().pattern(/^(\d{1,9}|\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d{1,3})?)?Z)$/);
/** A MAC address as it is kept. */
export const MAC = Joi.string().pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/);

/** Makes a route whose handler knows its body's type. */
export const route = <Body>(made: Omit<Route, 'handle'> & { handle: (call: Call<Body>) => unknown }): Route => made;

/** Tells when whoever asked does not wait for the answer any more. */
export function whenLeft({ res }: Context): AbortSignal {
  const left = new AbortController();
  res.once('close', () => left.abort());
  return left.signal;
}

/** Finds who calls; undefined when nobody is signed in. */
export type FindCaller = (context: Context) => Promise<Caller | undefined>;

/** Hears of what somebody asked for who may not have it. */
export type Refused = (caller: Caller, asked: string) => void;

/** Why somebody may not call a route; it is told on. */
function forbidden(caller: Caller, { method, path, who }: Route, refused: Refused): AppError {
  refused(caller, `${method.toUpperCase()} ${path}`);
  if (caller.role === 'reception')
    return new AppError('session.forbidden', 'Reception sees visit codes and visits of its sites, and nothing else.');
  return new AppError(
    'session.forbidden',
    who === RECEPTION ? 'That is for people at a reception.' : 'Your role may look but not change this.',
  );
}

/** Builds the router: signs in, authorises, validates, calls. */
export function routerOf(routes: readonly Route[], findCaller: FindCaller, refused: Refused): Router {
  const router = new Router();
  const answers = new SharedAnswers();
  for (const each of routes) {
    router[each.method](each.path, async (context: Context) => {
      const caller = each.who === 'anyone' ? undefined : await findCaller(context);
      if (each.who !== 'anyone') {
        if (!caller) throw new AppError('session.none', 'Sign in first.');
        if (!each.who.includes(caller.role)) throw forbidden(caller, each, refused);
      }
      const params = validate<Record<string, string>>(Joi.object(each.params ?? {}), context['params'], 'path');
      const query = validate<Record<string, string>>(Joi.object(each.query ?? {}), context.query, 'query');
      let body: unknown;
      if (each.body) {
        // Read only now: whoever may not call does not make us read a megabyte.
        await PARSERS[each.who === 'anyone' ? 'anyone' : 'caller'](context, async () => {});
        const { body: sent = {}, rawBody = '' } = context.request as { body?: unknown; rawBody?: string };
        body = validate<unknown>(each.body, sent, 'body', rawBody.length > SHORT_BODY);
      }
      const upload = each.upload === undefined ? Buffer.alloc(0) : await uploadOf(context, each.upload);
      const call = { params, query, body: body as never, upload, caller: caller!, context };
      if (each.shared) return answerShared(context, await answers.get(context.url, async () => each.handle(call)));
      const answer = await each.handle(call);
      if (answer !== undefined) {
        context.status = each.status ?? 200;
        context.body = answer;
      } else if (context.respond !== false && context.body === undefined) context.status = 204;
    });
  }
  return router;
}

/** Answers with what others are answered too; with nothing but its name where the caller has it (RFC 9110 §13.1.2). */
async function answerShared(context: Context, { etag, body, zipped }: PackedAnswer): Promise<void> {
  context.status = 200;
  context.set('etag', etag);
  context.set('cache-control', 'private, no-cache');
  context.vary('accept-encoding');
  // Worked out just now: whoever has these very octets needs no others, whatever else they say of caches.
  const known = context.get('if-none-match').split(',');
  if (known.some((each) => each.trim().replace(/^W\//, '') === etag)) {
    context.status = 304;
    return;
  }
  context.type = 'application/json';
  if (body.length > ZIPPED_FROM && context.acceptsEncodings('gzip', 'identity') === 'gzip') {
    context.set('content-encoding', 'gzip');
    context.body = await zipped();
  } else context.body = body;
}

/** Reads an upload whole, no further than it may be long. */
async function uploadOf(context: Context, most: number): Promise<Buffer> {
  if (!context.is('application/octet-stream'))
    throw new AppError('input.invalid', 'A file is sent as application/octet-stream.');
  const large = (): AppError =>
    new AppError('upload.large', `A file has ${Math.round(most / 1_000_000)} MB at most here.`);
  if ((context.request.length ?? 0) > most) throw large();
  const chunks: Buffer[] = [];
  let length = 0;
  for await (const chunk of context.req as AsyncIterable<Buffer>) {
    length += chunk.length;
    if (length > most) throw large();
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

function validate<T>(schema: Schema, value: unknown, where: string, abortEarly = false): T {
  const result = schema.validate(value, { abortEarly });
  if (!result.error) return result.value as T;
  const flaws = result.error.details.map((detail) => ({
    code: 'input.invalid',
    message: detail.message.replaceAll('"', '“').replace(/“([^“]*)“/g, '“$1”'),
    field: detail.path.join('.'),
  }));
  throw new AppError(
    'input.invalid',
    `The ${where} of the request is not as it should be: ${flaws[0]!.message}.`,
    flaws,
  );
}
