/** How the forms look in which it is said how something is sent. */
export const SENDING_STYLES = `
  :host {
    display: block;
  }
  form {
    max-width: 900px;
  }
  h2,
  .note,
  .acts {
    padding: 0 14px;
  }
  .acts {
    display: flex;
    gap: 10px;
    margin: 12px 0;
  }
  h2 {
    margin: 12px 0 0;
  }
  p {
    margin: 0;
    overflow-wrap: anywhere;
  }
  .note {
    margin: 6px 0 10px;
  }
`;
