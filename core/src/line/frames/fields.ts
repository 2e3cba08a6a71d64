import { BANDS } from '../../hardware';
import { Joi, type Schema, type Shapes } from '../../schema';

/** Pieces that frames are made of. */
export const hash = Joi.string().hex().length(64);
export const text = Joi.string().max(400);
export const short = Joi.string().min(1).max(64);
export const list = (item: Schema, most: number) => Joi.array().items(item).max(most).required();
/** The end of the year 9999: beyond it neither dates nor the database go. */
const LAST_MOMENT = 253_402_300_799_999;
export const moment = Joi.number().integer().min(0).max(LAST_MOMENT);
/** A clock may be wrong, but it shows a date. */
export const clock = Joi.number().integer().min(-LAST_MOMENT).max(LAST_MOMENT);

/** Pieces of what devices report. */
export const vlan = Joi.number().integer().min(1).max(4094).required();
export const octets = Joi.number().integer().min(0).required();
export const nullable = Joi.string().max(64).allow(null).required();
export const hostName = Joi.string().max(63);
export const bandOf = Joi.valid(...BANDS);
export const decibel = Joi.number().min(-130).max(60);
export const share = Joi.number().min(0).max(1);

/** The fields of each frame of a topic; that none is forgotten and none is left over is checked as types. */
export type FrameShapes<Frame extends { readonly type: string }> = {
  readonly [T in Frame['type']]: Shapes<Omit<Extract<Frame, { readonly type: T }>, 'type'>>;
};
