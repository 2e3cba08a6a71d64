import { randomUUID } from 'node:crypto';
import type { Intent } from '@iron-lattice/core/intent';
import { segmentsForKeys, type RingSegments, type RingSegmentsAsked } from '@iron-lattice/core/lattice';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** The segments that keys of a ring would lead to at a site; null: there is no such site or SSID. */
    'ring-segments': (intent: Intent, siteId: string, asked: RingSegmentsAsked) => RingSegments | null;
  }
}

export const tasks: TasksOf<'ring-segments'> = {
  'ring-segments': (intent, siteId, asked) => segmentsForKeys(intent, siteId, asked, randomUUID),
};
