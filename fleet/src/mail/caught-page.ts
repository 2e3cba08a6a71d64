import { html, type Html } from '@iron-lattice/core/guests';
import type { Caught } from './catcher';
import type { CaughtText } from './text-catcher';

/** A page to read what came, by mail and by text message. What is written in it is text; addresses of pages can be pressed. */
export const caughtPage = (mails: readonly Caught[], texts: readonly CaughtText[]): string =>
  html`<!doctype html>
    <html lang="en">
      <meta charset="utf-8" />
      <meta name="viewport" content="width=device-width" />
      <title>What came</title>
      <style>
        body {
          font:
            15px/1.5 system-ui,
            sans-serif;
          max-width: 46rem;
          margin: 2rem auto;
          padding: 0 1rem;
        }
        article {
          border-top: 1px solid;
          padding: 0.75rem 0;
        }
        h2 {
          font-size: 1rem;
          margin: 0;
        }
        pre {
          white-space: pre-wrap;
          overflow-wrap: anywhere;
          font: inherit;
        }
      </style>
      <h1>Text messages that came</h1>
      ${texts.length === 0 ? html`<p>None yet. Have the controller hand some to this gateway.</p>` : null}
      ${texts.map(
        ({ at, to, text }) =>
          html`<article>
            <p>${at}, to ${to}</p>
            <pre>${linked(text)}</pre>
          </article>`,
      )}
      <h1>Mail that came</h1>
      ${mails.length === 0 ? html`<p>None yet. Have the controller send some to this server.</p>` : null}
      ${mails.map(
        ({ at, from, to, subject, text }) =>
          html`<article>
            <h2>${subject}</h2>
            <p>${at}, from ${from} to ${to.join(', ')}</p>
            <pre>${linked(text)}</pre>
          </article>`,
      )}
    </html>`.text;

const linked = (text: string): Html[] =>
  text
    .split(/(https?:\/\/[^\s<>"]+)/)
    .map((part, i) => (i % 2 === 1 ? html`<a href="${part}">${part}</a>` : html`${part}`));
