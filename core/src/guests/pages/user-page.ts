import { MOST_PASSWORD, MOST_USER } from '../ways';
import { agreement, proofField } from './forms';
import { html, type Html } from './html';
import { textsOf, type Drawn, type PageOf } from './page-of';

/** Where somebody signs in with a name and a password. @param typed the name, as it was. */
export function userForm(of: PageOf, typed = ''): Html {
  const texts = textsOf(of.language);
  return html`<form method="post" action="/user">
    ${proofField(of)}<label for="user">${texts.userName}</label
    ><input
      class="words"
      id="user"
      name="user"
      value="${typed}"
      maxlength="${MOST_USER}"
      required
      autocomplete="username"
      autocapitalize="none"
      spellcheck="false"
    />
    <label for="password">${texts.password}</label
    ><input
      class="words"
      id="password"
      name="password"
      type="password"
      maxlength="${MOST_PASSWORD}"
      required
      autocomplete="current-password"
    />
    <p></p>
    ${agreement(of)}
    <button>${texts.signIn}</button>
  </form>`;
}

/** The same on a page of its own. @param flaw why the last try did not do. */
export function userPage(of: PageOf, flaw: string | null = null, typed = ''): Drawn {
  const texts = textsOf(of.language);
  return {
    title: texts.byUser,
    body: html`<h1>${texts.byUser}</h1>
      ${flaw === null ? null : html`<p class="flaw" role="alert">${flaw}</p>`} ${userForm(of, typed)}
      <p><a class="other" href="/">${texts.back}</a></p>`,
  };
}
