/**
 * A fault in something a person asked for, in words that person can act on. Core returns flaws; it never
 * throws for a user's input.
 */
export interface Flaw {
  /** Stable, dotted, e.g. `segment.vlan-taken`; screens and tests may rely on it. */
  readonly code: string;
  /** One sentence in sentence case that says what is wrong and, where possible, what would be right. */
  readonly message: string;
  /** Name of the input the flaw belongs to, where there is one; a form shows it at that field. */
  readonly field?: string;
}

/** Makes a flaw; `field` is left out rather than set to undefined, so flaws compare by value. */
export function flaw(code: string, message: string, field?: string): Flaw {
  return field === undefined ? { code, message } : { code, message, field };
}
