import {
  filled,
  isCode,
  languageOf,
  MOST_TOKEN,
  plainCode,
  strangerPage,
  termsPage,
  textsOf,
  welcomePage,
  writtenCode,
} from '@iron-lattice/core/guests';
import { bodyParser } from '@koa/bodyparser';
import Router from '@koa/router';
import Koa, { type Context } from 'koa';
import { isConnectionLost, isPoolBusy } from '../../platform/connection-loss';
import { answerRoutes } from './answer-routes';
import { captiveRoutes } from './captive-routes';
import { askRoutes } from './ask-routes';
import { formOf, goTo, GUEST_COOKIE, PortalPages, type Present } from './portal-pages';
import type { PortalParts } from './portal-parts';
import type { Seated } from './seat.service';
import { accountRoutes } from './account-routes';
import { userRoutes } from './user-routes';

/** Name of the cookie that holds a code from a slip until somebody is known, and for how long, in milliseconds. */
const [CODE_COOKIE, CODE_LIVES_MS] = ['code', 15 * 60_000];
/** Octets of a form. */
const MOST_FORM = '4kb';

/** The origin at which guests sign in: pages without scripts, sessions of nobody but guests, nothing of the controller’s own. */
export function portalApp(parts: PortalParts): Koa {
  const { seats, visits, tries, log } = parts;
  const app = new Koa();
  app.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code !== 'ERR_STREAM_PREMATURE_CLOSE' && error.code !== 'ECONNRESET') log.error({ error }, 'portal');
  });
  const COOKIES = { httpOnly: true, sameSite: 'lax', secure: parts.secure, overwrite: true } as const;
  const pages = new PortalPages(parts);
  const slipOf = (context: Context): string => {
    const code = context.cookies.get(CODE_COOKIE) ?? '';
    return isCode(code) ? writtenCode(code) : '';
  };

  const router = new Router();
  /** Has a browser come in that was given a seat, or says why it was not. */
  const seated = (context: Context, came: Seated): void => {
    if (!came.ok) {
      const language = pages.stranger(context);
      return pages.show(context, strangerPage(language, came.why), { portal: null, language }, 403);
    }
    if (came.cookie !== null) context.cookies.set(GUEST_COOKIE, came.cookie, COOKIES);
    goTo(context, '/');
  };
  router.get('/', async (context) => {
    const who = context.query['who'];
    if (typeof who === 'string') {
      const token = who.slice(0, MOST_TOKEN + 1);
      return seated(context, await seats.take(token, context.cookies.get(GUEST_COOKIE)));
    }
    const here = await pages.present(context);
    if (!here) return;
    const asked = context.query['language'];
    if (typeof asked === 'string') {
      const language = languageOf(here.portal.languages, asked, '');
      await seats.speak(here.seat, language);
      return goTo(context, '/');
    }
    const standing = await pages.arrived(here);
    pages.show(context, pages.drawn(here, standing, await pages.pendingOf(here), slipOf(context)), here);
  });
  // By the QR code of a slip: the code waits in the browser until its device has said who it is.
  router.get('/with/:code', (context) => {
    const code = plainCode(context['params'].code as string);
    if (isCode(code)) context.cookies.set(CODE_COOKIE, code, { ...COOKIES, maxAge: CODE_LIVES_MS });
    goTo(context, '/');
  });
  router.get('/terms', async (context) => {
    const here = await pages.present(context);
    if (here) pages.show(context, termsPage(pages.of(here)), here);
  });
  const refuse = (context: Context, here: Present, flaw: string, status = 422): void =>
    pages.show(context, welcomePage(pages.of(here), flaw, formOf(context, 'code').slice(0, 40)), here, status);
  const wayIn =
    (way: 'accept' | 'code', take: (context: Context, here: Present) => Promise<string | null>) =>
    async (context: Context) => {
      const here = await pages.presentWithForm(context);
      if (!here) return;
      if (!here.portal.ways.includes(way)) return goTo(context, '/');
      const texts = textsOf(here.language);
      if (here.portal.agree && formOf(context, 'agree') !== 'yes') return refuse(context, here, texts.agreeFirst);
      const flaw = await take(context, here);
      if (flaw === null) goTo(context, '/');
      else refuse(context, here, flaw, context.status === 429 ? 429 : 422);
    };
  router.post(
    '/accept',
    wayIn('accept', async (_context, here) => {
      await visits.accept(pages.guestOf(here), here);
      return null;
    }),
  );
  router.post(
    '/code',
    wayIn('code', async (context, here) => {
      const texts = textsOf(here.language);
      const standing = await pages.standingOf(here);
      if (standing?.blocked || standing?.why === 'quota') return null;
      const seconds = await tries.wait(here.seat);
      if (seconds > 0) {
        context.status = 429;
        context.set('retry-after', String(seconds));
        return filled(texts.tooMany, { seconds: String(seconds) });
      }
      const redeemed = await visits.withCode(pages.guestOf(here), formOf(context, 'code').slice(0, 40));
      context.cookies.set(CODE_COOKIE, null);
      if (redeemed.ok || redeemed.why === 'blocked') return null;
      if (redeemed.why === 'wrong' && (await tries.count(here.seat))) await parts.guessed(here.seat);
      return { wrong: texts.codeWrong, over: texts.codeOver, devices: texts.codeDevices }[redeemed.why];
    }),
  );
  router.get('/picture/:id', async (context) => {
    const bytes = await parts.pictures.read((context['params'] as { id: string }).id);
    if (!bytes) return;
    context.type = 'image/webp';
    context.set('cache-control', 'public, max-age=31536000, immutable'); // it is named by what it is
    context.body = bytes;
  });
  askRoutes(router, pages, parts);
  userRoutes(router, pages, parts);
  accountRoutes(router, pages, parts);
  answerRoutes(router, pages, parts);
  captiveRoutes(router, pages, parts, async (context, placed) =>
    seated(context, await seats.sit(placed, context.cookies.get(GUEST_COOKIE))),
  );

  app.use(async (context, next) => {
    context.request.ip = parts.callerOf(context.req).address;
    context.set({
      'cache-control': 'no-store',
      'referrer-policy': 'no-referrer',
      'x-content-type-options': 'nosniff',
      'cross-origin-opener-policy': 'same-origin',
    });
    try {
      await next();
    } catch (error) {
      if ((error as { status?: number }).status === 413) context.status = 413;
      else {
        const away = isConnectionLost(error) || isPoolBusy(error);
        log[away ? 'warn' : 'error']({ err: error }, 'portal');
        context.set('retry-after', '2');
        pages.plain(context, textsOf(pages.stranger(context)).notNow, 503);
      }
    }
  });
  app.use(bodyParser({ enableTypes: ['form'], formLimit: MOST_FORM }));
  app.use(router.routes());
  return app;
}
