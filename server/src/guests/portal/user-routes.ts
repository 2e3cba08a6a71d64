import { filled, MOST_PASSWORD, MOST_USER, textsOf, userPage, type PortalTexts } from '@iron-lattice/core/guests';
import type Router from '@koa/router';
import type { Proof } from '../../roster/user-offer';
import type { PortalParts } from './portal-parts';
import { formOf, goTo, type PortalPages } from './portal-pages';

/** Seconds for which no further password is looked at once too many were wrong. */
const GUESSED_SECONDS = 300;

/** What somebody reads who is not let in. */
const wordsOf = (texts: PortalTexts, proof: Exclude<Proof, 'right'>): string =>
  ({
    wrong: texts.userWrong,
    barred: texts.userBarred,
    later: texts.userLater,
    guessed: filled(texts.tooMany, { seconds: String(GUESSED_SECONDS) }),
  })[proof];

/** Guests who have a name and a password already. */
export function userRoutes(router: Router, pages: PortalPages, { users, tries, guessed }: PortalParts): void {
  router.get('/user', async (context) => {
    const here = await pages.present(context);
    if (!here) return;
    if (!here.portal.ways.includes('user') || !pages.openingOf(here).open) return goTo(context, '/');
    pages.show(context, userPage(pages.of(here)), here);
  });
  router.post('/user', async (context) => {
    const here = await pages.presentWithForm(context);
    if (!here) return;
    if (!here.portal.ways.includes('user') || (await pages.isSettled(here, 'user'))) return goTo(context, '/');
    const texts = textsOf(here.language);
    const name = formOf(context, 'user').trim().slice(0, MOST_USER);
    const password = formOf(context, 'password').slice(0, MOST_PASSWORD);
    const refuse = (flaw: string, status = 422): void =>
      pages.show(context, userPage(pages.of(here), flaw, name), here, status);
    if (here.portal.agree && formOf(context, 'agree') !== 'yes') return refuse(texts.agreeFirst);
    const seconds = await tries.wait(here.seat);
    if (seconds > 0) {
      context.set('retry-after', String(seconds));
      return refuse(filled(texts.tooMany, { seconds: String(seconds) }), 429);
    }
    const proof =
      name === '' || password === '' ? 'wrong' : await users.signIn(pages.guestOf(here), here, name, password);
    if (proof === 'right') return goTo(context, '/');
    if (proof === 'wrong' && (await tries.count(here.seat))) await guessed(here.seat);
    refuse(wordsOf(texts, proof), proof === 'guessed' ? 429 : proof === 'later' ? 503 : 422);
  });
}
