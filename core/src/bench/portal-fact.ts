import { lastsWords } from '../base';
import { WAY_WORDS, type Portal } from '../intent';
import type { PortalFact } from './probe';

/** A portal as a walk tells of it. @param url where its page is. */
export function portalFact(portal: Portal, url: string): PortalFact {
  const { ways, visit, dataADay, minutesADay, idle, rest, known, slow } = portal;
  const again = rest ? `lets itself in again ${lastsWords(rest)} later` : 'may sign in again';
  return {
    url,
    ways: ways.map((way) => WAY_WORDS[way]),
    limits: [
      `${lastsWords(visit)} after it was let in`,
      ...(dataADay && !slow ? [`${dataADay} MB that day`] : []),
      ...(minutesADay ? [`${lastsWords(minutesADay)} that day`] : []),
      ...(idle ? [`${lastsWords(idle)} without use`] : []),
    ],
    after: known ? `is let in again by itself for ${lastsWords(known)} from when it signed in` : again,
    ...(slow && dataADay ? { slows: `After ${dataADay} MB a day it goes on at ${slow} kb/s.` } : {}),
  };
}
