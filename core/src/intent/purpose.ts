import { flaw, type Flaw } from '../base';

/** A thing of which people may say what it is for. */
export interface Purposed {
  /** What it is for, in people's words. In an edit, null takes it away. */
  readonly purpose?: string | null;
}

/** Longest text that says what something is for. */
export const MOST_PURPOSE = 200;

/** The same thing with its purpose trimmed; one that says nothing is left out. */
export function normalPurpose<T extends Purposed>({ purpose, ...rest }: T): T {
  const text = purpose?.trim();
  return (text ? { ...rest, purpose: text } : rest) as T;
}

/** What is wrong with what is said of a thing of some noun. */
export const purposeFlaws = (noun: string, { purpose }: Purposed): Flaw[] =>
  (purpose ?? '').length > MOST_PURPOSE
    ? [flaw(`${noun}.purpose-long`, `Say what it is for in ${MOST_PURPOSE} characters at most.`, 'purpose')]
    : [];

/** What a thing is, with what it is for where somebody said it. */
export const said = (what: string, purpose: string | null | undefined): string =>
  purpose ? `${what}: ${purpose}` : what;
