export { Joi } from './joi';
export type { ObjectSchema, Schema } from 'joi';
