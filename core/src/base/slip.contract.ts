/** What one slip of paper says. */
export interface Slip {
  readonly heading: string;
  /** What is typed by hand, in large letters. */
  readonly code: string;
  /** Above what is typed, and below it; empty ones are left out. */
  readonly before: readonly string[];
  readonly after: readonly string[];
  /** Codes for cameras, each with what it does; a slip with one needs no words. */
  readonly qr: readonly { readonly text: string; readonly words: string }[];
}

/** Most slips of one sheet, lines of a slip above and below, and characters of each and of what a camera reads. */
export const MOST_SLIPS = 500;
export const MOST_OF_SLIP = { lines: 4, line: 200, qr: 2, text: 500 } as const;
