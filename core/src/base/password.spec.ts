import { expect, test } from 'vitest';
import { checkPassword } from '.';

const known = ['Ida Holm', 'ida@skerrow.example', 'Skerrow Ferries'];

test.each([
  ['lattice-demo', 'password.known'],
  ['short one', 'password.short'],
  ['x'.repeat(201), 'password.long'],
  ['password123456', 'password.known'],
  ['SkerrowFerries1', 'password.known'],
  ['ababababababab', 'password.plain'],
  ['abcdefghijklmn', 'password.plain'],
  ['mnopqrstuvwxyz', 'password.plain'],
])('%s is refused: %s', (password, code) => {
  expect(checkPassword(password, known)[0]?.code).toBe(code);
});

test.each(['three gulls on a mast', 'Vk7#pL2q!xZ9', 'half past nine sailing'])('%s is strong', (password) => {
  expect(checkPassword(password, known)).toEqual([]);
});
