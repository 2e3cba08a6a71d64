import { lastsWords } from '../base';
import { WAY_WORDS, type Portal } from '../intent';
import type { PortalFact } from './probe';

/** A portal as a walk tells of it. @param url where its page is. */
export function portalFact(portal: Portal, url: string): PortalFact {
  const { ways, visit, dataADay, minutesADay, idle, rest } = portal;
  return {
    url,
    ways: ways.map((way) => WAY_WORDS[way]),
    limits: [
      `${lastsWords(visit)} after it was let in`,
      ...(dataADay ? [`${dataADay} MB that day`] : []),
      ...(minutesADay ? [`${lastsWords(minutesADay)} that day`] : []),
      ...(idle ? [`${lastsWords(idle)} without use`] : []),
    ],
    after: rest ? `lets itself in again ${lastsWords(rest)} later` : 'may sign in again',
  };
}
