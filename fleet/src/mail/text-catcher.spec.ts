import { expect, test } from 'vitest';
import { caughtPage } from './caught-page';
import { TEXT_KEY, TextCatcher } from './text-catcher';

const JSON_TYPE = 'application/json';
const taken = (catcher: TextCatcher, message: object, key: string | undefined = TEXT_KEY.value): number =>
  catcher.take(key, JSON_TYPE, Buffer.from(JSON.stringify(message))).status;

test('a message is kept, as JSON or as a form, from who says the key, to a number that is one', () => {
  const catcher = new TextCatcher();
  const message = { to: '+35315550123', text: '123456 is your code' };
  expect(taken(catcher, message)).toBe(202);
  expect(taken(catcher, message, 'gulls')).toBe(401);
  expect(catcher.take(undefined, JSON_TYPE, Buffer.from('{}')).status).toBe(401);
  expect(taken(catcher, { ...message, to: '0155501' })).toBe(400);
  expect(taken(catcher, { ...message, to: '+0001555012' })).toBe(422);
  expect(taken(catcher, { ...message, text: 'x'.repeat(20_000) })).toBe(413);
  const form = Buffer.from('to=%2B35315550124&text=by+form');
  expect(catcher.take(TEXT_KEY.value, 'application/x-www-form-urlencoded', form).status).toBe(202);
  expect(catcher.all.map(({ to, text }) => [to, text])).toEqual([
    ['+35315550124', 'by form'],
    ['+35315550123', '123456 is your code'],
  ]);
});

test('what came is text on the page that shows it, and addresses of pages in it can be pressed', () => {
  const at = '2026-11-30T07:00:00.000Z';
  const mail = { at, from: 'a@b.example', to: ['c@d.example'], subject: '<b>', text: 'See http://x.example/y', by: '' };
  const page = caughtPage([mail], [{ at, to: '+35315550123', text: '<script>' }]);
  expect(page).toContain('<a href="http://x.example/y">');
  expect([page.includes('<script>'), page.includes('<b>')]).toEqual([false, false]);
});
