import {
  filled,
  languageOf,
  LANGUAGES,
  momentIn,
  plainPage,
  questionPage,
  textsOf,
  type Drawn,
  type Language,
} from '@iron-lattice/core/guests';
import type Router from '@koa/router';
import type { Context } from 'koa';
import type { Answered, Question } from '../asking/answer.service';
import type { PortalParts } from './portal-parts';
import { formOf, type PortalPages } from './portal-pages';

/** Longest token of a link, in characters. */
const MOST_LINK = 200;

/** Whoever is asked about a guest answers here. To look does nothing: programs that look at mails open their links too. */
export function answerRoutes(router: Router, pages: PortalPages, parts: PortalParts): void {
  const { answers, links } = parts;
  const languageFor = (context: Context, what: Question | Answered): Language =>
    languageOf(
      LANGUAGES,
      undefined,
      context.get('accept-language') || ('live' in what ? what.live.portal.languages[0]! : ''),
    );

  const show = async (context: Context, what: Question | Answered): Promise<void> => {
    if (what.what === 'unknown' && (await isSlowed(context))) return;
    const language = languageFor(context, what);
    const portal = 'live' in what ? what.live.portal : null;
    pages.show(
      context,
      drawn(what, language),
      { portal: portal && { ...portal, languages: [] }, language },
      STATUS[what.what],
    );
  };
  /**
   * Whether somebody has opened so many links that are not right that they are told to wait. Whoever is asked may sit behind the same
   * address: a link that is right is answered all the same, and none is found by guessing.
   */
  const isSlowed = async (context: Context): Promise<boolean> => {
    const seconds = await links.wait(context.ip);
    if (seconds === 0) {
      if (await links.count(context.ip)) await parts.forged(context.ip);
      return false;
    }
    context.set('retry-after', String(seconds));
    pages.plain(context, filled(textsOf(pages.stranger(context)).tooMany, { seconds: String(seconds) }), 429);
    return true;
  };
  const tokenOf = (context: Context): string => (context['params'] as { token: string }).token.slice(0, MOST_LINK);

  router.get('/answer/:token', async (context) => {
    await show(context, await answers.open(tokenOf(context)));
  });
  router.post('/answer/:token', async (context) => {
    const answer = formOf(context, 'answer');
    const token = tokenOf(context);
    if (answer !== 'yes' && answer !== 'no') return show(context, await answers.open(token));
    await show(context, await answers.answer(token, answer === 'yes', Number.parseInt(formOf(context, 'minutes'), 10)));
  });
}

const STATUS: Readonly<Record<(Question | Answered)['what'], number>> = {
  ...{ open: 200, in: 200, no: 200, answered: 200, over: 410, gone: 410, unknown: 404 },
};

function drawn(what: Question | Answered, language: Language): Drawn {
  const texts = textsOf(language);
  switch (what.what) {
    case 'open': {
      const { row, live } = what;
      const question = { said: row.said, contact: row.contact ?? '', mac: row.mac, at: row.at.getTime() };
      return questionPage({ ...live, language }, { ...question, visit: live.portal.visit });
    }
    case 'in':
      return plainPage(filled(texts.letInUntil, { time: momentIn({ ...what.live, language }, what.until) }));
    case 'no':
      return plainPage(texts.wasRefused);
    case 'answered':
      return plainPage(filled(texts.answeredBy, { who: what.by }));
    case 'over':
      return plainPage(texts.askOver);
    case 'gone':
      return plainPage(texts.gone);
    case 'unknown':
      return plainPage(texts.askUnknown);
  }
}
