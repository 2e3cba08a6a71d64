/**
 * Tells what a spreadsheet has made of a text that was not meant as a number or a date, so that nobody imports the
 * ruin for the real thing.
 * @returns the damage in words, or null when the text looks as people type it.
 */
export function spreadsheetDamage(text: string): string | null {
  const bare = text.trim();
  if (/^[+-]?\d+([.,]\d+)?E[+-]?\d+$/i.test(bare))
    return `“${bare}” is what a spreadsheet makes of a long number: digits are lost`;
  if (/^\d{1,2}[-/. ](jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*([-/. ]\d{2,4})?$/i.test(bare))
    return `“${bare}” is a date that a spreadsheet has made of it`;
  if (/^(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*[-/. ]\d{2,4}$/i.test(bare))
    return `“${bare}” is a date that a spreadsheet has made of it`;
  if (/^(\d{4}-\d{2}-\d{2}([T ]\d{2}:\d{2}.*)?|\d{1,2}[/.]\d{1,2}[/.]\d{2,4})$/.test(bare))
    return `“${bare}” is a date that a spreadsheet has made of it`;
  if (/^#(REF|VALUE|NAME\?|N\/A|NUM|DIV\/0)!?$/i.test(bare)) return `“${bare}” is a spreadsheet’s error`;
  return null;
}
