import { expect, test } from 'vitest';
import { Joi } from '.';

test('a list that is too long is refused before an item is looked at', () => {
  let looked = 0;
  const item = Joi.any().custom((value: unknown) => (looked++, value));
  const schema = Joi.array().items(item).max(3);
  expect(schema.validate([1, 2, 3]).error).toBeUndefined();
  expect(looked).toBe(3);
  const { error } = schema.validate(Array(100_000).fill(1), { abortEarly: false, convert: false });
  expect(error?.details.map((each) => each.type)).toEqual(['array.max']);
  expect(looked).toBe(3);
});

test('a text that is too long is refused before its pattern is tried', () => {
  const slow = Joi.string()
    .max(10)
    .pattern(/^(a+)+$/);
  const started = performance.now();
  expect(slow.validate(`${'a'.repeat(60)}!`).error?.details[0]?.type).toBe('string.long');
  expect(performance.now() - started).toBeLessThan(1000);
});

test.each([{ convert: false }, { convert: true }])('texts are plain, with %j', (options) => {
  const name = Joi.string().max(80);
  expect(name.validate('Crew', options).error).toBeUndefined();
  expect(name.validate('Cr\0ew', options).error?.message).toMatch('holds a character that cannot be shown (U+0000)');
  expect(name.validate('Cr\ud800ew', options).error).toBeDefined();
  expect(name.validate('two\nlines', options).error?.message).toMatch('must stand on one line');
  expect(name.meta({ lines: true }).validate('two\nlines', options).error).toBeUndefined();
  const keys = Joi.object().pattern(Joi.string().max(5), Joi.number());
  expect(keys.validate({ 'a\0': 1 }, options).error).toBeDefined();
});
