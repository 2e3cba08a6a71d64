import { askPage, isAskedWay, textsOf } from '@iron-lattice/core/guests';
import type Router from '@koa/router';
import type { Context } from 'koa';
import type { Filled } from '../asking/ask.service';
import type { PortalParts } from './portal-parts';
import { formOf, goTo, type PortalPages, type Present } from './portal-pages';

/** Guests who say who they are: forms, codes that were sent to them, and what they wait for. */
export function askRoutes(router: Router, pages: PortalPages, { asks }: PortalParts): void {
  router.get('/ask/:way', async (context) => {
    const here = await pages.present(context);
    if (!here) return;
    const { way } = context['params'] as { way: string };
    if (!isAskedWay(way) || !here.portal.ways.includes(way) || !pages.openingOf(here).open) return goTo(context, '/');
    pages.show(context, askPage(pages.of(here), way), here);
  });
  router.post('/ask/leave', async (context) => {
    const here = await pages.presentWithForm(context);
    if (!here) return;
    await asks.leave(here.seat);
    goTo(context, '/');
  });
  router.post('/ask/:way', async (context) => {
    const here = await pages.presentWithForm(context);
    if (!here) return;
    const { way } = context['params'] as { way: string };
    if (!isAskedWay(way) || !here.portal.ways.includes(way) || (await pages.isSettled(here, way)))
      return goTo(context, '/');
    const typed = filledOf(context);
    const flaw =
      here.portal.agree && formOf(context, 'agree') !== 'yes'
        ? textsOf(here.language).agreeFirst
        : await asks.ask(pages.guestOf(here), here, way, typed);
    if (flaw === null) return goTo(context, '/');
    pages.show(context, askPage(pages.of(here), way, flaw, typed), here, 422);
  });
  /** Goes to the page of whoever it is, with what did not do. */
  const goOn = async (context: Context, here: Present, flaw: string | null): Promise<void> => {
    if (flaw === null) return goTo(context, '/');
    const [standing, pending] = [await pages.standingOf(here), await pages.pendingOf(here)];
    pages.show(context, pages.drawn(here, standing, pending, '', flaw), here, 422);
  };
  router.post('/confirm', async (context) => {
    const here = await pages.presentWithForm(context);
    if (!here) return;
    await goOn(context, here, await asks.confirm(pages.guestOf(here), here, formOf(context, 'code').slice(0, 20)));
  });
  router.post('/confirm/again', async (context) => {
    const here = await pages.presentWithForm(context);
    if (here) await goOn(context, here, await asks.again(pages.guestOf(here), here));
  });
}

const filledOf = (context: Context): Filled => ({
  name: formOf(context, 'name'),
  company: formOf(context, 'company'),
  reason: formOf(context, 'reason'),
  to: formOf(context, 'to'),
  whom: formOf(context, 'whom'),
  group: formOf(context, 'group'),
});
