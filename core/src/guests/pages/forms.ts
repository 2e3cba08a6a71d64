import { filled, type PortalTexts } from '../texts/texts';
import { mayWrite, NO_SPONSORS } from '../sponsors';
import { ASK_FIELDS, MOST_FIELD, type AskedWay, type AskField } from '../ways';
import { html, type Html } from './html';
import { textsOf, wordsOf, type PageOf } from './page-of';

/** What a guest typed into a form that did not do. */
export type Typed = Readonly<Partial<Record<AskField | 'to' | 'whom' | 'group', string>>>;

/** Characters of an address that is typed. */
const MOST_TO = 254;

export const proofField = ({ proof }: PageOf): Html => html`<input type="hidden" name="proof" value="${proof}" />`;

/** The terms, and whether they have to be agreed to; nothing where there are none. */
export function agreement({ portal, language }: PageOf): Html | null {
  const texts = textsOf(language);
  if (wordsOf(portal, language).terms === '') return null;
  return html`<p class="terms">
    ${portal.agree ? html`<label><input type="checkbox" name="agree" value="yes" required /> ${texts.agree}</label> ` : null}<a
      href="/terms"
      >${texts.terms}</a
    >
  </p>`;
}

/** What a way in is called that begins with who somebody is. */
export const askWords = (texts: PortalTexts, way: AskedWay): string =>
  ({ mail: texts.byMail, phone: texts.byPhone, sponsor: texts.bySponsor })[way];

/** What is asked of a guest who says who they are. */
export function askForm(of: PageOf, way: AskedWay, typed: Typed = {}): Html {
  const { portal } = of;
  const texts = textsOf(of.language);
  const asks = portal.asks ?? {};
  const label = (name: string, words: string, optional: boolean): Html =>
    html`<label for="${name}">${words}${optional ? html` <span class="soft">(${texts.maySkip})</span>` : null}</label>`;
  const fields = ASK_FIELDS.filter((field) => asks[field]).map((field) => {
    const must = asks[field] === 'must';
    return html`${label(field, texts[field], !must)}<input
        class="words"
        id="${field}"
        name="${field}"
        value="${typed[field]}"
        maxlength="${MOST_FIELD[field]}"
        ${must ? html`required` : null}
        ${field === 'reason' ? null : html`autocomplete="${field === 'name' ? 'name' : 'organization'}"`}
      />`;
  });
  return html`<form method="post" action="/ask/${way}">
    ${proofField(of)} ${way === 'sponsor' ? whomFields(of, typed) : null} ${fields}
    ${way === 'sponsor' ? label('to', texts.contact, true) : label('to', way === 'mail' ? texts.mail : texts.phone, false)}
    <input
      class="words"
      id="to"
      name="to"
      value="${typed.to}"
      maxlength="${MOST_TO}"
      ${way === 'mail' ? html`type="email" autocomplete="email"` : null}
      ${way === 'phone' ? html`type="tel" autocomplete="tel"` : null}
      ${way === 'sponsor' ? html`autocomplete="email"` : html`required`}
      ${way === 'mail' ? null : html`aria-describedby="to-hint"`}
    />
    ${way === 'mail' ? null : html`<p id="to-hint" class="soft">${way === 'phone' ? texts.phoneHint : texts.contactHint}</p>`}
    ${agreement(of)}
    <button>${way === 'sponsor' ? texts.ask : texts.sendCode}</button>
  </form>`;
}

/** Whom a guest visits: a group by its name, or somebody by a mail address. */
function whomFields({ portal, language }: PageOf, { group = '', whom = '' }: Typed): Html {
  const texts = textsOf(language);
  const sponsors = portal.sponsors ?? NO_SPONSORS;
  const written = mayWrite(sponsors);
  const groups = sponsors.groups.map(
    ({ name }) => html`<option value="${name}" ${name === group ? html`selected` : null}>${name}</option>`,
  );
  const choice =
    groups.length === 0
      ? null
      : html`<label for="group">${texts.whom}</label
          ><select id="group" name="group">
            ${groups}${written ? html`<option value="" ${group === '' ? html`selected` : null}>${texts.somebodyElse}</option>` : null}
          </select>`;
  return html`${choice}${
    written || groups.length === 0
      ? html`<label for="whom">${texts.whomMail}</label
          ><input
            class="words"
            id="whom"
            name="whom"
            type="email"
            value="${whom}"
            maxlength="${MOST_TO}"
            autocomplete="off"
            ${groups.length === 0 ? html`required` : null}
          />`
      : null
  }`;
}

/** Where the code is given that was sent to a guest. */
export function confirmForm(of: PageOf): Html {
  const texts = textsOf(of.language);
  return html`<form method="post" action="/confirm">
      ${proofField(of)}<label for="sent">${texts.theCode}</label
      ><input id="sent" name="code" maxlength="20" required inputmode="numeric" autocomplete="one-time-code" />
      <p></p>
      <button>${texts.confirm}</button>
    </form>
    <form method="post" action="/confirm/again">
      ${proofField(of)}<button class="plain">${texts.sendAgain}</button>
    </form>`;
}

/** Leaves what was asked, for another way in. */
export const anotherWay = (of: PageOf): Html =>
  html`<form method="post" action="/ask/leave">
    ${proofField(of)}<button class="plain">${textsOf(of.language).otherWay}</button>
  </form>`;

/** Why what a guest said does not do. */
export const saidFlaw = (texts: PortalTexts, field: AskField, why: 'missing' | 'link'): string =>
  filled(why === 'missing' ? texts.missing : texts.noLinks, { field: texts[field] });
