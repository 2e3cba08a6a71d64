import { Joi } from '../schema';
import { SHAPES } from './shapes';

/** Shapes of operations. What they mean is judged by `apply`; this only keeps anything else out. */
export const operationSchema = Joi.alternatives(...Object.values(SHAPES).flat()).match('any');

/** What people send of edits: those made together, on what they saw, and the secrets that they refer to. */
export const editSchema = Joi.object({
  head: Joi.number().integer().min(0).required(),
  operations: Joi.array().items(operationSchema).min(1).max(2000).required(),
  secrets: Joi.object().pattern(Joi.string().uuid(), Joi.string().max(128)).max(2000),
});
