import { filled } from '../texts/texts';
import type { AskedWay } from '../ways';
import { anotherWay, askForm, askWords, confirmForm, type Typed } from './forms';
import { html, type Html } from './html';
import { isolated, momentIn, textsOf, type Drawn, type PageOf } from './page-of';

const flawOf = (flaw: string | null): Html | null =>
  flaw === null ? null : html`<p class="flaw" role="alert">${flaw}</p>`;

/** Who somebody is, and whom they visit. @param flaw why the last try did not do. */
export function askPage(of: PageOf, way: AskedWay, flaw: string | null = null, typed: Typed = {}): Drawn {
  const texts = textsOf(of.language);
  const title = askWords(texts, way);
  return {
    title,
    body: html`<h1>${title}</h1>
      ${flawOf(flaw)} ${askForm(of, way, typed)}
      <p><a class="other" href="/">${texts.back}</a></p>`,
  };
}

/**
 * Where somebody gives the code that was sent.
 * @param to where to, as others may see it. @param until milliseconds since 1970. @param wasIn whether first minutes are over.
 */
export function confirmPage(
  of: PageOf,
  { to, until, wasIn }: { readonly to: string; readonly until: number; readonly wasIn: boolean },
  flaw: string | null = null,
): Drawn {
  const texts = textsOf(of.language);
  const said = wasIn
    ? filled(texts.firstOver, { to: isolated(to) })
    : filled(texts.sentTo, { to: isolated(to), time: momentIn(of, until) });
  return {
    title: texts.enterCode,
    body: html`<h1>${texts.enterCode}</h1>
      ${flawOf(flaw)}
      <p>${said}</p>
      ${confirmForm(of)}${anotherWay(of)}`,
  };
}

/** Until whoever was asked answers. @param who by group, or address. */
export function askedPage(of: PageOf, { who, until }: { readonly who: string; readonly until: number }): Drawn {
  const texts = textsOf(of.language);
  return {
    title: texts.asked,
    body: html`<h1>${texts.asked}</h1>
      <p role="status">${filled(texts.askedText, { who: isolated(who), time: momentIn(of, until) })}</p>
      ${anotherWay(of)}`,
    refresh: 5,
  };
}

/** Somebody said no. */
export function refusedPage(of: PageOf): Drawn {
  const texts = textsOf(of.language);
  return {
    title: texts.refused,
    body: html`<h1>${texts.refused}</h1>
      <p>${texts.refusedText}</p>
      ${anotherWay(of)}`,
  };
}
