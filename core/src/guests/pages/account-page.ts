import { filled } from '../texts/texts';
import { agreement, proofField } from './forms';
import { html, type Html } from './html';
import { isolated, textsOf, type Drawn, type PageOf } from './page-of';

const nameOf = ({ portal }: PageOf): string => isolated(portal.account?.name ?? '');

/** The way to an account elsewhere. */
export function accountForm(of: PageOf, plain = false): Html {
  const words = filled(textsOf(of.language).byAccount, { name: nameOf(of) });
  return html`<form method="post" action="/account">
    ${proofField(of)}${agreement(of)} <button ${plain ? html`class="plain"` : null}>${words}</button>
  </form>`;
}

/** The same on a page of its own. @param flaw why the last try did not do. */
export function accountPage(of: PageOf, flaw: string | null = null): Drawn {
  const texts = textsOf(of.language);
  return {
    title: filled(texts.byAccount, { name: of.portal.account?.name ?? '' }),
    body: html`<h1>${filled(texts.byAccount, { name: nameOf(of) })}</h1>
      ${flaw === null ? null : html`<p class="flaw" role="alert">${flaw}</p>`} ${accountForm(of)}
      <p><a class="other" href="/">${texts.back}</a></p>`,
  };
}

/** Leads a browser there: a form may not (a page’s policy holds for where it is sent on to as well). @param url where its issuer asks who it is. */
export function awayPage(of: PageOf, url: string): Drawn {
  const words = filled(textsOf(of.language).onToAccount, { name: nameOf(of) });
  return {
    title: words,
    body: html`<h1>${words}</h1>
      <p><a class="way" href="${url}" rel="noreferrer">${words}</a></p>`,
    leadsTo: url,
  };
}
