import type { VisitView } from '@iron-lattice/core/guests';

/** What a guest is called; empty: nobody asked. */
export const guestWords = ({ who }: Pick<VisitView, 'who'>): string =>
  [who?.said.name, who?.said.company].filter(Boolean).join(', ') || (who?.contact ?? '');

/** What let a guest in. */
export function wayWords({ way, code, who }: Pick<VisitView, 'way' | 'code' | 'who'>): string {
  switch (way) {
    case 'accept':
      return 'pressing';
    case 'code':
      return code ? `code ${code.name}`.trim() : 'a code';
    case 'mail':
    case 'phone':
      return `${who?.contact ?? 'an address'}${who && !who.proven ? ', not proven yet' : ''}`;
    case 'user':
      return 'name and password';
    case 'account':
      return 'an account';
    case 'sponsor':
      return who?.sponsor ?? 'somebody who said yes';
  }
}

const STATES: Readonly<Record<Exclude<VisitView['state'], 'in'>, string>> = {
  slow: 'let in, slower',
  quota: 'used up for today',
  hours: 'closed at this hour',
  over: 'over',
  idle: 'ended: took nothing',
  ended: 'ended',
};

/** How a visit stands, in words. */
export function stateWords({ state, told, blocked }: Pick<VisitView, 'state' | 'told' | 'blocked'>): string {
  if (blocked) return 'kept out';
  if (state === 'in') return told ? 'let in' : 'being told';
  return STATES[state];
}
