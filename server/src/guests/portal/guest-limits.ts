import { TRIES } from '@iron-lattice/core/guests';
import type { Limit } from './limits';
import type { Seat } from './seat.service';

type Where = Pick<Seat, 'mac' | 'deviceId' | 'portalId'>;

/** The same by device, by the box that it comes from, and at a portal as a whole. */
const by = (prefix: string, seconds: number, most: Record<'device' | 'box' | 'portal', number>): Limit<Where>[] => [
  { prefix, seconds, points: most.device, keyOf: ({ mac, portalId }) => `${portalId} ${mac}` },
  { prefix: `${prefix}-box`, seconds, points: most.box, keyOf: ({ deviceId, portalId }) => `${portalId} ${deviceId}` },
  { prefix: `${prefix}-portal`, seconds, points: most.portal, keyOf: ({ portalId }) => portalId },
];

/** How often codes may be given wrongly. */
export const TRY_LIMITS = by('guest', 60, TRIES);
/** How often guests may have something sent, in ten minutes. */
export const ASK_LIMITS = by('guest-ask', 600, { device: 6, box: 100, portal: 300 });
const address = (prefix: string, points: number): readonly Limit<string>[] => [
  { prefix, seconds: 3600, points, keyOf: (to) => to.toLowerCase() },
];
/** How many codes are sent to one address or number in an hour, whoever has them sent. */
export const CONTACT_LIMITS = address('guest-contact', 8);
/** How often somebody who may say yes is asked in an hour. */
export const SPONSOR_LIMITS = address('guest-sponsor', 40);
/** How often links of mails that are not right may be opened from one address, in a minute. */
export const LINK_LIMITS: readonly Limit<string>[] = [
  { prefix: 'guest-link', seconds: 60, points: 20, keyOf: (ip) => ip },
];
