import type { GuestState } from '../guest-word';
import { inkOn, isColour, readableOn } from '../contrast';
import { isRightToLeft, LANGUAGE_NAMES, type Language } from '../languages';
import { readPage } from '../page';
import { filled } from '../texts/texts';
import { isAskedWay, RESTING } from '../ways';
import { askForm, askWords, agreement, confirmForm, proofField } from './forms';
import { Html, html, paragraphs } from './html';
import { accountForm } from './account-page';
import { userForm } from './user-page';
import { isolated, momentIn, termsOf, textsOf, wordsOf, type Drawn, type PageOf, type PortalLook } from './page-of';

/** The ways in. @param flaw why the last try did not do. */
export function welcomePage(of: PageOf, flaw: string | null, typed = ''): Drawn {
  const { portal, language } = of;
  const texts = textsOf(language);
  const { title, text, news } = wordsOf(portal, language);
  const name = title || filled(texts.welcome, { name: of.siteName });
  const [accept, code] = (['accept', 'code'] as const).map((way) => portal.ways.includes(way));
  const asked = portal.ways.filter(isAskedWay);
  const known = portal.ways.includes('user');
  const account = portal.ways.includes('account') && portal.account;
  const [only] = asked;
  // One form for both: who agrees does so once. Enter in the field gives the code, whatever button comes first.
  const pressed = html`<form method="post" action="${code ? '/code' : '/accept'}">
    ${proofField(of)} ${accept && code ? html`<button hidden></button>` : null} ${agreement(of)}
    ${accept ? html`<button ${code ? html`formaction="/accept" formnovalidate` : null}>${texts.accept}</button>` : null}
    ${
      code
        ? html`<label for="code">${texts.code}</label
            ><input
              id="code"
              name="code"
              value="${typed}"
              maxlength="40"
              required
              autocomplete="one-time-code"
              autocapitalize="characters"
              spellcheck="false"
              aria-describedby="hint"
            />
            <p id="hint" class="soft">${texts.codeHint}</p>
            <button>${texts.useCode}</button>`
        : null
    }
  </form>`;
  const ways = [
    ...(accept || code ? [pressed] : []),
    ...(!accept && !code && !known && !account && only && asked.length === 1
      ? [askForm(of, only)]
      : asked.map((way) => html`<p><a class="other" href="/ask/${way}">${askWords(texts, way)}</a></p>`)),
    ...(known
      ? portal.ways.length === 1
        ? [userForm(of)]
        : [html`<p><a class="other" href="/user">${texts.byUser}</a></p>`]
      : []),
    ...(account
      ? portal.ways.length === 1
        ? [accountForm(of)]
        : [
            html`<p>
              <a class="other" href="/account">${filled(texts.byAccount, { name: isolated(account.name) })}</a>
            </p>`,
          ]
      : []),
  ];
  const link = portal.newsLink ? html` <a href="${portal.newsLink}" rel="noreferrer">${texts.moreNews}</a>` : null;
  return {
    title: name,
    body: html`<h1>${name}</h1>
      ${flaw === null ? null : html`<p class="flaw" role="alert">${flaw}</p>`} ${paragraphs(text)} ${ways}
      ${news === '' && !link ? null : html`<aside>${paragraphs(news)}${link}</aside>`}`,
  };
}

export function termsPage({ portal, language }: PageOf): Drawn {
  const texts = textsOf(language);
  return {
    title: texts.terms,
    body: html`<h1>${texts.terms}</h1>
      ${paragraphs(termsOf(portal, language))}
      <p><a class="way" href="/">${texts.back}</a></p>`,
  };
}

/** Until the device does as it was told. @param long whether that takes longer than it should. */
export function waitingPage({ language }: PageOf, long: boolean): Drawn {
  const texts = textsOf(language);
  return {
    title: texts.waiting,
    body: html`<h1>${texts.waiting}</h1>
      <p role="status">${long ? texts.waitingLong : texts.waitingText}</p>`,
    refresh: long ? 5 : 1,
  };
}

/** @param url the page that was asked for. @param unproven where a code was sent to that is still to be given, and why the last one did not do. */
export function donePage(
  of: PageOf,
  { until, left, slowed, resets }: Pick<GuestState, 'until' | 'left' | 'resets'> & { readonly slowed?: true },
  url: string | null,
  unproven: { readonly to: string; readonly flaw: string | null } | null = null,
): Drawn {
  const { portal, language } = of;
  const texts = textsOf(language);
  const page = [portal.landing, url].find((each) => each && readPage(each));
  return {
    title: texts.done,
    body: html`<h1>${texts.done}</h1>
      <p>${filled(texts.until, { time: momentIn(of, until) })}</p>
      ${
        unproven === null
          ? null
          : html`${unproven.flaw === null ? null : html`<p class="flaw" role="alert">${unproven.flaw}</p>`}
              <p>${filled(texts.stayIn, { to: isolated(unproven.to) })}</p>
              ${confirmForm(of)}`
      }
      ${
        slowed && resets !== null
          ? html`<p>${filled(texts.slower, { time: momentIn(of, resets) })}</p>`
          : left === null
            ? null
            : html`<p>${filled(texts.left, { amount: amountIn(language, left) })}</p>`
      }
      ${page ? html`<p><a class="way" href="${page}" rel="noreferrer">${filled(texts.goOn, { page: readPage(page)!.host })}</a></p>` : null}`,
  };
}

/** Why somebody who had been let in is not any more, above the ways in. */
export const quotaPage = (of: PageOf, resets: number): Drawn => {
  const texts = textsOf(of.language);
  return {
    title: texts.quota,
    body: html`<h1>${texts.quota}</h1>
      <p>${filled(texts.quotaText, { time: momentIn(of, resets) })}</p>`,
  };
};

/** Nobody is let in at that hour. @param opens when they are again, in milliseconds since 1970; null: not soon. */
export const closedPage = (of: PageOf, opens: number | null): Drawn => {
  const texts = textsOf(of.language);
  return plainPage(
    texts.closed,
    opens === null ? texts.closedLong : filled(texts.closedText, { time: momentIn(of, opens) }),
  );
};

/** Its time is over, and it has to wait until a press lets it in again; what it was given a code for, or a yes, does before. */
export function restPage(of: PageOf, until: number, typed = ''): Drawn {
  const { portal, language } = of;
  const text = filled(textsOf(language).rests, { time: momentIn(of, until) });
  const ways = portal.ways.filter((way) => !RESTING.includes(way));
  return ways.length === 0 ? plainPage(text) : welcomePage({ ...of, portal: { ...portal, ways } }, text, typed);
}

/** A page that says one thing. */
export const plainPage = (title: string, text: string | null = null): Drawn => ({
  title,
  body: html`<h1>${title}</h1>
    ${text === null ? null : html`<p>${text}</p>`}`,
});

/** A page that is nowhere (RFC 5737 §3): an AP that holds whoever asks for it sends them to the portal. */
export const ELSEWHERE = 'http://192.0.2.1/';

/** For a browser that no device has said anything of yet. @param why it is not known. */
export function strangerPage(language: Language, why: 'new' | 'used' | 'old'): Drawn {
  const texts = textsOf(language);
  const text = { new: texts.openAnyText, used: texts.linkUsed, old: texts.linkOld }[why];
  return {
    title: texts.openAny,
    body: html`<h1>${texts.openAny}</h1>
      <p>${text}</p>
      <p><a class="way" href="${ELSEWHERE}" rel="noreferrer">${texts.signIn}</a></p>`,
  };
}

/** Where a picture is read by a guest’s browser. */
const pictureAt = (id: string): string => `/picture/${id}`;

/** A whole document. @param style what its one style is let through by. @param at where pictures are, by their ids. */
export function documentOf(
  { title, body, refresh, leadsTo }: Drawn,
  of: Pick<PageOf, 'language'> & { readonly portal: PortalLook | null },
  style: string,
  at: (id: string) => string = pictureAt,
): string {
  const { language, portal } = of;
  const texts = textsOf(language);
  const choices = (portal?.languages ?? []).filter((each) => each !== language);
  const { logo: sign } = portal ?? {};
  const logo = sign
    ? html`<img class="logo" src="${at(sign.id)}" width="${sign.width}" height="${sign.height}" alt="" />`
    : null;
  const languages =
    choices.length === 0
      ? null
      : html`<nav aria-label="${texts.language}">
          ${choices.map((each) => html`<a href="/?language=${each}" hreflang="${each}" lang="${each}">${LANGUAGE_NAMES[each]}</a> `)}
        </nav>`;
  return html`<!doctype html>
    <html lang="${language}" dir="${isRightToLeft(language) ? 'rtl' : 'ltr'}">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        ${refresh === undefined ? null : html`<meta http-equiv="refresh" content="${refresh}" />`}
        ${leadsTo === undefined ? null : html`<meta http-equiv="refresh" content="0; url=${leadsTo}" />`}
        <title>${title}</title>
        <style nonce="${style}">
          ${new Html(styleOf(portal, at))}
        </style>
      </head>
      <body>
        <main>${logo}${body}</main>
        ${languages}
      </body>
    </html>`.text;
}

const GROUND = '#f4f1ea';
/** Colours come from intent, where they are checked; a page is only ever styled with what reads as one. */
function styleOf(portal: PortalLook | null, at: (id: string) => string): string {
  const safe = (colour: string | undefined, otherwise: string): string =>
    colour !== undefined && isColour(colour) ? colour : otherwise;
  const [ground, accent] = [safe(portal?.ground, GROUND), safe(portal?.accent, '#8c2f1b')];
  const ink = inkOn(ground);
  // Words stand on the ground, whatever is behind it.
  const behind = portal?.backdrop
    ? `body{min-height:100vh;background:${ground} url("${at(portal.backdrop.id)}") center/cover fixed;padding:4vh 1rem}main,nav{background:${ground}}`
    : '';
  return `.logo{display:block;max-width:min(100%,20rem);max-height:8rem;width:auto;height:auto;margin-bottom:1.5rem}:root{color-scheme:light}*{box-sizing:border-box}body{margin:0;background:${ground};color:${ink};font:17px/1.5 system-ui,sans-serif;overflow-wrap:anywhere}
main,nav{max-width:30rem;margin:0 auto;padding:1.5rem 1.25rem}h1{font-size:1.6rem;line-height:1.2;margin:.5rem 0 1rem}
form{margin:1.5rem 0;padding-top:1.5rem;border-top:1px solid ${ink}33}form+form{padding-top:0;border-top:0}label{display:block}
input:not([type=checkbox]){width:100%;font:600 1.3rem/1.2 ui-monospace,monospace;letter-spacing:.06em;padding:.7rem;border:2px solid ${ink};background:${ground};color:${ink};border-radius:0}
input[type=checkbox]{width:1.3rem;height:1.3rem;vertical-align:-.25rem;accent-color:${accent}}
[hidden]{display:none!important}button+label{margin-top:1.75rem}
button,.way{display:block;width:100%;min-height:3.2rem;padding:.8rem;border:0;background:${accent};color:${inkOn(accent)};font:inherit;font-weight:600;font-size:1.15rem;text-align:center;text-decoration:none;cursor:pointer}
.other{display:block;padding:.8rem;border:2px solid ${ink};text-align:center;font-weight:600;min-height:3.2rem;text-decoration:none}main a.other{color:${ink}}
select,textarea{width:100%;font:inherit;padding:.7rem;border:2px solid ${ink};background:${ground};color:${ink};border-radius:0}input.words{font:inherit;letter-spacing:0}input+label,select+label,textarea+label,.soft+label{margin-top:1rem}button+button{margin-top:.8rem}button.plain{background:none;border:2px solid ${ink};color:${ink}}
dl{display:grid;grid-template-columns:auto 1fr;gap:.3rem 1rem;margin:1rem 0}dt{opacity:.85}dd{margin:0;font-weight:600}
a{color:${readableOn(accent, ground)}}.way{color:${inkOn(accent)}}:focus-visible{outline:3px solid ${ink};outline-offset:2px}
.soft{font-size:.9rem;margin:.3rem 0 1rem}.terms{margin:0 0 1rem}.flaw{border-inline-start:5px solid ${readableOn('#a01c1c', ground)};padding:.5rem .8rem;font-weight:600}
aside{margin-top:2rem;padding-top:1rem;border-top:1px solid ${ink}33}nav{display:flex;flex-wrap:wrap;gap:.3rem 1.2rem;padding-top:0}nav a{min-height:2.75rem;display:inline-flex;align-items:center}${behind}`;
}

const amountIn = (language: Language, octets: number): string =>
  octets >= 1_000_000_000
    ? new Intl.NumberFormat(language, { style: 'unit', unit: 'gigabyte', maximumFractionDigits: 1 }).format(
        octets / 1e9,
      )
    : new Intl.NumberFormat(language, { style: 'unit', unit: 'megabyte', maximumFractionDigits: 0 }).format(
        octets / 1e6,
      );
