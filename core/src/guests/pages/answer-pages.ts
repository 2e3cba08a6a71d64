import { spanIn, spansOf, type Said } from '../asking';
import { filled } from '../texts/texts';
import { ASK_FIELDS } from '../ways';
import { html } from './html';
import { momentIn, textsOf, type Drawn, type PageOf } from './page-of';

/** What somebody is asked who may say yes to a guest. */
export interface Question {
  readonly said: Said;
  /** Mail address or phone number of the guest; empty: none was given. */
  readonly contact: string;
  readonly mac: string;
  /** When it was asked, in milliseconds since 1970. */
  readonly at: number;
  /** Minutes that a visit lasts at most. */
  readonly visit: number;
}

type AnswerOf = Pick<PageOf, 'siteName' | 'timeZone' | 'language'>;

/** Who asks to be let in; whoever was asked answers here, by the link of a mail alone. */
export function questionPage(of: AnswerOf, { said, contact, mac, at, visit }: Question): Drawn {
  const texts = textsOf(of.language);
  const title = filled(texts.asksIn, { name: said.name ?? texts.someone });
  const facts = [
    ...ASK_FIELDS.flatMap((field) => (said[field] ? [[texts[field], said[field]]] : [])),
    ...(contact === '' ? [] : [[texts.contact, contact]]),
    [texts.where, of.siteName],
    [texts.askedAt, momentIn(of, at)],
    [texts.device, mac],
  ] as [string, string][];
  return {
    title,
    body: html`<h1>${title}</h1>
      <dl>
        ${facts.map(
          ([term, words]) =>
            html`<dt>${term}</dt>
              <dd>${words}</dd>`,
        )}
      </dl>
      <form method="post">
        <label for="minutes">${texts.howLong}</label
        ><select id="minutes" name="minutes">
          ${spansOf(visit).map((minutes) => html`<option value="${minutes}" ${minutes === visit ? html`selected` : null}>${spanIn(of.language, minutes)}</option>`)}
        </select>
        <p></p>
        <button name="answer" value="yes">${texts.letIn}</button>
        <button class="plain" name="answer" value="no">${texts.refuse}</button>
      </form>`,
  };
}
