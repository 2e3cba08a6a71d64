import { CAPTIVE_TYPE, filled, strangerPage, textsOf } from '@iron-lattice/core/guests';
import type Router from '@koa/router';
import type { Context } from 'koa';
import { MOST_ENTRY, MOST_WORD } from './captive.service';
import type { PortalParts } from './portal-parts';
import type { PortalPages } from './portal-pages';
import type { Placed } from './seat.service';

/** Where devices of guests ask by themselves whether they are held back (RFC 8908), and the way to the page that they are told. */
export function captiveRoutes(
  router: Router,
  pages: PortalPages,
  { captive, links, forged }: PortalParts,
  sit: (context: Context, placed: Placed) => Promise<void>,
): void {
  /** Whether somebody came with so much that is none of ours that no more is looked at. */
  const isSlowed = async (context: Context): Promise<number> => {
    const seconds = await links.wait(context.ip);
    if (seconds > 0) context.set('retry-after', String(seconds));
    return seconds;
  };
  const wrong = async (context: Context): Promise<void> => {
    if (await links.count(context.ip)) await forged(context.ip);
  };
  const tokenOf = (context: Context, most: number): string =>
    (context['params'] as { token: string }).token.slice(0, most + 1);

  router.get('/captive/:token', async (context) => {
    const token = tokenOf(context, MOST_WORD);
    const slowed = (await isSlowed(context)) > 0;
    const answer = slowed || token.length > MOST_WORD ? null : await captive.answer(token);
    context.type = 'application/problem+json';
    if (slowed) {
      context.status = 429;
      context.body = JSON.stringify({ status: 429, title: 'Too many that are none of ours. Wait.' });
      return;
    }
    if (!answer) {
      await wrong(context);
      context.status = 404;
      context.body = JSON.stringify({ status: 404, title: 'No device of ours said that. Join the network anew.' });
      return;
    }
    context.set('cache-control', 'private, no-store');
    context.type = CAPTIVE_TYPE;
    context.body = JSON.stringify(answer);
  });

  router.get('/enter/:token', async (context) => {
    const language = pages.stranger(context);
    const seconds = await isSlowed(context);
    if (seconds > 0) return pages.plain(context, filled(textsOf(language).tooMany, { seconds: String(seconds) }), 429);
    const token = tokenOf(context, MOST_ENTRY);
    const placed = token.length > MOST_ENTRY ? null : captive.placedIn(token);
    if (placed) return sit(context, placed);
    await wrong(context);
    pages.show(context, strangerPage(language, 'old'), { portal: null, language }, 403);
  });
}
