import type { Mishap, MishapKind } from '@iron-lattice/core/paths';
import { numberTyped } from '../ui/number-typed';

/** A mishap as it is typed. */
export interface MishapText {
  readonly what: MishapKind;
  readonly port: string;
  readonly from: string;
  readonly to: string;
  readonly amount: string;
  readonly target: string;
}

export const MISHAP_WORDS: Readonly<Record<MishapKind, string>> = {
  cut: 'its link is cut',
  silent: 'nothing gets through',
  lossy: 'packets get lost',
  slow: 'packets come late',
  target: 'a target does not answer',
};

/** What the amount of a mishap is; empty: it has none. */
export const AMOUNT_WORDS: Readonly<Record<MishapKind, string>> = {
  cut: '',
  silent: '',
  lossy: '% lost',
  slow: 'ms more',
  target: '',
};

export const newMishap = (port: string): MishapText => ({
  ...{ what: 'silent', port, from: '30', to: '150', amount: '', target: '' },
});

/** What is typed as a mishap, or what is wrong with it. @param most seconds at which it has to be over. */
export function readMishap(text: MishapText, gatewayId: string, most: number): { mishap: Mishap } | { flaw: string } {
  const [from, to, amount] = [numberTyped(text.from), numberTyped(text.to), numberTyped(text.amount)];
  if (from === null || from < 0 || from >= most) return { flaw: `It begins 0 to ${most - 1} s after the start.` };
  if (to === null || to <= from || to > most)
    return { flaw: `It ends after it began, and ${most} s after the start at the latest.` };
  if (AMOUNT_WORDS[text.what] !== '' && (amount === null || amount <= 0)) return { flaw: 'Say how much.' };
  if (text.what === 'lossy' && amount! > 100) return { flaw: 'No more than 100 % get lost.' };
  if (text.what === 'target' && text.target.trim() === '') return { flaw: 'Say which target does not answer.' };
  const share = text.what === 'lossy' ? { amount: amount! / 100 } : text.what === 'slow' ? { amount: amount! } : {};
  const target = text.what === 'target' ? { target: text.target.trim().toLowerCase() } : {};
  return { mishap: { what: text.what, port: text.port, from, to, gatewayId, ...share, ...target } };
}

/** A mishap as it would be typed. */
export const mishapTextOf = ({ what, port, from, to, amount, target }: Mishap): MishapText => ({
  ...{ what, port, from: `${from}`, to: to === null ? '' : `${to}`, target: target ?? '' },
  amount: amount === undefined ? '' : `${what === 'lossy' ? Math.round(amount * 100) : amount}`,
});
