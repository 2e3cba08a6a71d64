import { ConnectionAcquireTimeoutError, ConnectionRefusedError, DatabaseError } from 'sequelize';
import { expect, test } from 'vitest';
import { isConnectionLost, isDiskFull, isPoolBusy } from './connection-loss';

const coded = (code: string): Error => Object.assign(new Error(code), { code });
const inQuery = (code: string): Error => new DatabaseError(Object.assign(coded(code), { sql: '' }));

test.each([
  ['a refused connection', new ConnectionRefusedError(coded('ECONNREFUSED'))],
  ['a server that is stopped', inQuery('57P01')],
  ['a server that starts', inQuery('57P03')],
  ['a socket that is cut', coded('ECONNRESET')],
  ['a connection that the driver lost', new Error('Connection terminated unexpectedly')],
])('%s is the database being away', (_name, error) => {
  expect([isConnectionLost(error), isPoolBusy(error), isDiskFull(error)]).toEqual([true, false, false]);
});

test('a full pool, a full disk and a fault of ours are told apart from it', () => {
  expect(isPoolBusy(new ConnectionAcquireTimeoutError(new Error('timeout')))).toBe(true);
  expect(isDiskFull(inQuery('53100'))).toBe(true);
  for (const error of [inQuery('53100'), inQuery('23505'), new TypeError('x'), 'text', null])
    expect(isConnectionLost(error)).toBe(false);
});
