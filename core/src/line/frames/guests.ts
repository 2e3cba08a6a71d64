import { Joi } from '../../schema';
import { moment, octets, short, type FrameShapes } from './fields';

/** Most guests in one frame. */
export const GUESTS_A_FRAME = 500;

/**
 * Guests: a device asks whom of those that a portal holds it lets in, and is told so, then and whenever it becomes another; it says when it
 * does as it was told.
 */
export type GuestsFromDevice =
  ({ readonly type: 'guests-ask' } & GuestsThere) | ({ readonly type: 'guests-told' } & GuestsThere);
interface GuestsThere {
  /** Id of the portal. */
  readonly portal: string;
  /** MAC addresses of clients that are there. */
  readonly macs: readonly string[];
}
export interface GuestsFromController {
  readonly type: 'guests';
  readonly portal: string;
  readonly guests: readonly GuestWord[];
}
/** What the controller says of a guest. */
export interface GuestWord {
  readonly mac: string;
  readonly in: boolean;
  /** Until when, in milliseconds since 1970; absent: without an end. */
  readonly until?: number;
  /** Octets that it may still take; absent: any. */
  readonly left?: number;
  /** Kilobits a second each way at which it goes on when these are taken; absent: it is held back then. */
  readonly slow?: number;
  /** When it is worth asking once more, in milliseconds since 1970: a new day begins. */
  readonly again?: number;
}

const mac = Joi.string().pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/);
const word = Joi.object({
  mac: mac.required(),
  in: Joi.boolean().required(),
  until: moment,
  left: octets.optional(),
  slow: Joi.number().integer().min(1).max(1_000_000),
  again: moment,
});
const asked = { portal: short.required(), macs: Joi.array().items(mac).min(1).max(GUESTS_A_FRAME).unique().required() };

export const guestFrames = {
  device: {
    'guests-ask': asked,
    'guests-told': asked,
  } satisfies FrameShapes<GuestsFromDevice>,
  controller: {
    guests: { portal: short.required(), guests: Joi.array().items(word).max(GUESTS_A_FRAME).required() },
  } satisfies FrameShapes<GuestsFromController>,
};
