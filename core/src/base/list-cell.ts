/** What a spreadsheet takes for the beginning of a formula, behind any number of our own marks. */
const FORMULA = /^'*[=+\-@\t\r]/;
const GUARDED = /^'+[=+\-@\t\r]/;

/** A cell of a list as it is written, so that no spreadsheet takes it for a formula. `unguardCell` takes the mark away. */
export const guardCell = (text: string): string => (FORMULA.test(text) ? `'${text}` : text);

/** A cell as it was before it was guarded; any other as it is. */
export const unguardCell = (text: string): string => (GUARDED.test(text) ? text.slice(1) : text);
