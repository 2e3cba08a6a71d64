import {
  accountPage,
  ACCOUNT_BACK,
  awayPage,
  filled,
  MOST_ISSUER,
  textsOf,
  type AccountIssuer,
} from '@iron-lattice/core/guests';
import type Router from '@koa/router';
import type { Context } from 'koa';
import type { Journey } from '../accounts/account-way';
import type { PortalParts } from './portal-parts';
import { formOf, goTo, type PortalPages, type Present } from './portal-pages';

/** The cookie by which a browser proves that it comes back from where it was sent; and for how long, in milliseconds. */
const [JOURNEY_COOKIE, JOURNEY_MS] = ['journey', 10 * 60_000];
/** Characters of a journey, and of what a browser brings back. */
const [MOST_JOURNEY, MOST_QUESTION] = [1000, 4000];

/** Guests who sign in with an account elsewhere. */
export function accountRoutes(
  router: Router,
  pages: PortalPages,
  { accounts, tries, guessed, secure }: PortalParts,
): void {
  const cookies = { httpOnly: true, sameSite: 'lax', secure, overwrite: true, path: '/account' } as const;
  const accountOf = ({ portal }: Present): AccountIssuer | null =>
    portal.ways.includes('account') ? (portal.account ?? null) : null;
  const refuse = (context: Context, here: Present, flaw: string, status: number): void =>
    pages.show(context, accountPage(pages.of(here), flaw), here, status);
  /** Whether somebody has to wait who came back too often with what was not right. */
  const waits = async (context: Context, here: Present): Promise<boolean> => {
    const seconds = await tries.wait(here.seat);
    if (seconds === 0) return false;
    context.set('retry-after', String(seconds));
    refuse(context, here, filled(textsOf(here.language).tooMany, { seconds: String(seconds) }), 429);
    return true;
  };

  router.get('/account', async (context) => {
    const here = await pages.present(context);
    if (!here) return;
    if (!accountOf(here) || !pages.openingOf(here).open) return goTo(context, '/');
    pages.show(context, accountPage(pages.of(here)), here);
  });
  router.post('/account', async (context) => {
    const here = await pages.presentWithForm(context);
    if (!here) return;
    const account = accountOf(here);
    if (!account || (await pages.isSettled(here, 'account'))) return goTo(context, '/');
    const texts = textsOf(here.language);
    if (here.portal.agree && formOf(context, 'agree') !== 'yes') return refuse(context, here, texts.agreeFirst, 422);
    if (await waits(context, here)) return;
    const begun = await accounts.begin(account);
    if (!begun) return refuse(context, here, texts.userLater, 503);
    context.cookies.set(JOURNEY_COOKIE, written(begun.journey), { ...cookies, maxAge: JOURNEY_MS });
    pages.show(context, awayPage(pages.of(here), begun.url), here);
  });
  router.get(ACCOUNT_BACK, async (context) => {
    const here = await pages.present(context);
    if (!here) return;
    const account = accountOf(here);
    const journey = read(context.cookies.get(JOURNEY_COOKIE));
    context.cookies.set(JOURNEY_COOKIE, null, cookies); // right once
    if (!account || !pages.openingOf(here).open || (await pages.isSettled(here, 'account'))) return goTo(context, '/');
    if (!journey || context.search.length > MOST_QUESTION) return goTo(context, '/account');
    if (await waits(context, here)) return;
    const entered = await accounts.comesBack(pages.guestOf(here), here, account, context.search, journey);
    if (entered === 'in') return goTo(context, '/');
    if (entered === 'wrong' && (await tries.count(here.seat))) await guessed(here.seat);
    const { accountNot, userLater } = textsOf(here.language);
    refuse(context, here, entered === 'not' ? accountNot : userLater, entered === 'later' ? 503 : 422);
  });
}

const written = (journey: Journey): string => Buffer.from(JSON.stringify(journey)).toString('base64url');

/** What a browser was sent away with; null: it was not, or long ago. */
function read(cookie: string | undefined): Journey | null {
  if (cookie === undefined || cookie.length > MOST_JOURNEY) return null;
  try {
    const found: unknown = JSON.parse(Buffer.from(cookie, 'base64url').toString('utf8'));
    const { state, nonce, verifier } = (found ?? {}) as Partial<Record<keyof Journey, unknown>>;
    const texts = [state, nonce, verifier].every(
      (each) => typeof each === 'string' && each.length < MOST_ISSUER.client,
    );
    return texts ? (found as Journey) : null;
  } catch {
    return null;
  }
}
