import { CAPTIVE_TYPE, strangerPage } from '@iron-lattice/core/guests';
import type Router from '@koa/router';
import type { Context } from 'koa';
import { MOST_ENTRY, MOST_WORD } from './captive.service';
import type { PortalParts } from './portal-parts';
import type { PortalPages } from './portal-pages';
import type { Placed } from './seat.service';

/**
 * Where devices of guests ask by themselves whether they are held back (RFC 8908), and the way to the page that they are told. Guests of
 * a site come from one address: what is none of ours is written down, and keeps nobody else from asking.
 */
export function captiveRoutes(
  router: Router,
  pages: PortalPages,
  { captive, links, forged }: PortalParts,
  sit: (context: Context, placed: Placed) => Promise<void>,
): void {
  const tokenOf = (context: Context, most: number): string | null => {
    const { token } = context['params'] as { token: string };
    return token.length > most ? null : token;
  };
  const wrong = async (context: Context): Promise<void> => {
    if (await links.count(context.ip)) await forged(context.ip);
  };

  router.get('/captive/:token', async (context) => {
    const token = tokenOf(context, MOST_WORD);
    const answer = token === null ? null : await captive.answer(token);
    if (answer) {
      context.set('cache-control', 'private, no-store');
      context.type = CAPTIVE_TYPE;
      context.body = JSON.stringify(answer);
      return;
    }
    await wrong(context);
    context.status = 404;
    context.type = 'application/problem+json';
    context.body = JSON.stringify({ status: 404, title: 'No device of ours said that. Join the network anew.' });
  });

  router.get('/enter/:token', async (context) => {
    const token = tokenOf(context, MOST_ENTRY);
    const placed = token === null ? null : captive.placedIn(token);
    if (placed) return sit(context, placed);
    await wrong(context);
    const language = pages.stranger(context);
    pages.show(context, strangerPage(language, 'old'), { portal: null, language }, 403);
  });
}
