import { Joi } from '@iron-lattice/core/schema';
import type { Context } from 'koa';
import { route, SIGNED_IN, type Caller, type Route } from '../platform/route';
import type { SessionService } from './session.service';

/** Name of the cookie that holds the session's token. */
export const COOKIE = 'lattice';

/** Finds who a request comes from by its cookie. */
export const findCallerBy =
  (sessions: SessionService) =>
  async (context: Context): Promise<Caller | undefined> => {
    const token = context.cookies.get(COOKIE);
    return token ? sessions.find(token) : undefined;
  };

export const sessionRoutes = (sessions: SessionService): Route[] => [
  route<{ email: string; password: string }>({
    method: 'post',
    path: '/api/session',
    summary: 'Sign in',
    who: 'anyone',
    body: Joi.object({ email: Joi.string().max(200).required(), password: Joi.string().max(200).required() }),
    handle: async ({ body, context }) => {
      const { token, person } = await sessions.signIn(body.email, body.password, context.ip);
      context.cookies.set(COOKIE, token, { httpOnly: true, sameSite: 'lax', secure: context.secure, overwrite: true });
      return person;
    },
  }),
  route({
    method: 'get',
    path: '/api/session',
    summary: 'Who is signed in, if anybody',
    who: 'anyone',
    handle: async ({ context }) => ({ person: (await findCallerBy(sessions)(context)) ?? null }),
  }),
  route({
    method: 'delete',
    path: '/api/session',
    summary: 'Sign out',
    who: SIGNED_IN,
    handle: async ({ context }) => {
      await sessions.signOut(context.cookies.get(COOKIE)!);
      context.cookies.set(COOKIE, null);
    },
  }),
];
