import Base, { type CustomHelpers, type ErrorReport, type Extension } from 'joi';
import { textFault } from '../base';

type Checked = { value: unknown; errors?: ErrorReport[] } | undefined;

/** A list's length is looked at before any of its items is. */
const list: Extension = {
  type: 'array',
  base: Base.array(),
  validate(value: unknown, helpers: CustomHelpers): Checked {
    const limit = limitOf(helpers);
    if (limit === undefined || (value as unknown[]).length <= limit) return undefined;
    return { value, errors: [helpers.error('array.max', { limit })] };
  },
};

/** A text is no longer than it may be, and holds nothing that cannot be shown. */
const text: Extension = {
  type: 'string',
  base: Base.string(),
  messages: {
    'string.plain': '{{#label}} {{#fault}}',
    'string.long': '{{#label}} is longer than {{#limit}} characters',
  },
  validate(value: unknown, helpers: CustomHelpers): Checked {
    if (typeof value !== 'string') return undefined;
    const limit = limitOf(helpers);
    if (limit !== undefined && value.length > limit)
      return { value, errors: [helpers.error('string.long', { limit })] };
    const lines = (helpers.schema.$_terms['metas'] as { lines?: boolean }[] | undefined)?.some((meta) => meta.lines);
    const fault = textFault(value, lines);
    return fault === null ? undefined : { value, errors: [helpers.error('string.plain', { fault })] };
  },
};

function limitOf({ schema }: CustomHelpers): number | undefined {
  const rule = schema.$_getRule('max') as { args?: { limit?: unknown } } | undefined;
  const limit = rule?.args?.limit;
  return typeof limit === 'number' ? limit : undefined;
}

/**
 * Joi with what everything from outside is held to: limits are checked before work is done on what they limit, and texts
 * are plain (`textFault`); one of several lines says so by `.meta({ lines: true })`. Nothing else is used to check input.
 */
export const Joi = (Base.extend as (...extensions: Extension[]) => typeof Base)(list, text);
