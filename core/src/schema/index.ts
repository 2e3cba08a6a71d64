import type { Schema } from 'joi';

export { Joi } from './joi';
export type { ObjectSchema, Schema } from 'joi';

/** A shape of every field of something; that none is forgotten and none is left over is checked as types. */
export type Shapes<Fields> = { readonly [K in keyof Required<Fields>]: Schema };
