import { note } from '../platform/journal';
import { later } from '../platform/held-connection';
import type { Refused } from '../platform/route';
import type { Sequelize } from 'sequelize';

/** What is asked within this of the first time is counted, and told together, in milliseconds. */
const GATHER_MS = 60_000;
/** Most people who are counted at once. */
const MOST_COUNTED = 1000;

/** Writes down what people asked for that is not theirs: the first at once, what follows within a minute as a number. */
export function refusalsTo(database: Sequelize, failed: (error: unknown) => void): Refused {
  const counts = new Map<string, { times: number; last: string }>();
  return (caller, asked) => {
    const counted = counts.get(caller.id);
    if (counted) {
      counted.times++;
      counted.last = asked;
      return;
    }
    if (counts.size >= MOST_COUNTED) return;
    counts.set(caller.id, { times: 0, last: asked });
    later(GATHER_MS, () => {
      const { times, last } = counts.get(caller.id)!;
      counts.delete(caller.id);
      if (times > 0) note(database, caller.id, 'session.forbidden', { asked: last, times }).catch(failed);
    }).unref();
    note(database, caller.id, 'session.forbidden', { asked, times: 1 }).catch(failed);
  };
}
