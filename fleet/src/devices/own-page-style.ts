import { html } from '@iron-lattice/core/guests';

/** How a gateway’s own page looks: plain, and readable on a phone. Fields that belong to no chosen way are not shown. */
export const OWN_PAGE_STYLE = html`<style>
  :root {
    color-scheme: light dark;
  }
  body {
    font:
      16px/1.5 system-ui,
      sans-serif;
    max-width: 34rem;
    margin: 2rem auto;
    padding: 0 1rem;
  }
  h1 {
    font-size: 1.4rem;
  }
  h2 {
    font-size: 1.1rem;
    margin: 2rem 0 0.5rem;
  }
  code {
    font-family: ui-monospace, monospace;
  }
  ul {
    list-style: none;
    padding: 0;
  }
  li {
    border-left: 4px solid;
    padding: 0.15rem 0.75rem;
    margin: 0.25rem 0;
  }
  .good {
    border-color: #2d7d46;
  }
  .bad {
    border-color: #b3261e;
  }
  fieldset {
    border: 0;
    padding: 0;
    margin: 1rem 0;
  }
  legend {
    font-weight: 600;
    padding: 0;
  }
  .choice {
    display: inline-block;
    margin-right: 1.25rem;
    padding: 0.4rem 0;
  }
  .field {
    display: block;
    margin: 1rem 0;
  }
  .field input {
    display: block;
    box-sizing: border-box;
    width: 100%;
    font: inherit;
    padding: 0.5rem;
  }
  .of {
    display: none;
  }
  form:has([value='static']:checked) .static,
  form:has([value='pppoe']:checked) .pppoe,
  form:has([value='cellular']:checked) .cellular {
    display: block;
  }
  [role='alert'] {
    border-left: 4px solid #b3261e;
    padding-left: 0.75rem;
  }
  button {
    font: inherit;
    font-weight: 600;
    padding: 0.6rem 1.5rem;
    min-height: 44px;
  }
</style>`;
