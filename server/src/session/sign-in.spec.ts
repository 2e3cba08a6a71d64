import { expect, test } from 'vitest';
import { TestController } from '../testing/test-controller';

test('sign-in is limited, and a wrong address costs the same as a wrong password', async () => {
  const limited = await TestController.start(3);
  try {
    const attempt = (email: string, password: string) =>
      limited.anyone().ask('POST', '/api/session', { email, password });
    expect((await attempt('nobody@test.example', 'x')).json.title).toBe('The address or the password is wrong.');
    expect((await attempt('ada@test.example', 'x')).json.title).toBe('The address or the password is wrong.');
    await attempt('ada@test.example', 'x');
    const refused = await attempt('ada@test.example', 'ada-password');
    expect(refused.status).toBe(429);
    expect(refused.json.title).toMatch(/^Too many attempts failed. Try again in \d+ s\.$/);
  } finally {
    await limited.end();
  }
});

test('only attempts that fail count, by address and by account; each is journaled, and the right password gets in', async () => {
  const limited = await TestController.start(2);
  try {
    const attempt = (email: string, password: string) =>
      limited.anyone().ask('POST', '/api/session', { email, password });
    for (let i = 0; i < 6; i++) expect((await attempt('oli@test.example', 'oli-password')).status).toBe(200);
    expect((await attempt('oli@test.example', 'wrong')).status).toBe(401);
    expect((await attempt('oli@test.example', 'oli-password')).status).toBe(200);
    const { database } = limited.controller;
    const failed = `SELECT detail->>'email' AS email FROM journal WHERE act = 'session.refused'`;
    expect((await database.query(failed))[0]).toEqual([{ email: 'oli@test.example' }]);
    // One account is guessed at from many addresses: their own limits do not help.
    await database.query(`UPDATE sign_in_limit SET points = 6 WHERE key LIKE 'account%'`);
    await database.query(`DELETE FROM sign_in_limit WHERE key LIKE 'address%'`);
    const refused = await limited
      .anyone()
      .fetch('POST', '/api/session', { email: 'oli@test.example', password: 'oli-password' });
    expect([refused.status, Number(refused.headers.get('retry-after')) > 0]).toEqual([429, true]);
    expect((await attempt('ada@test.example', 'ada-password')).status).toBe(200);
  } finally {
    await limited.end();
  }
});
