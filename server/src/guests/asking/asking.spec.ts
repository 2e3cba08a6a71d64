import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, test, vi } from 'vitest';
import type { VisitView } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Portal } from '@iron-lattice/core/intent';
import { clock } from '../../platform/clock';
import { TestGuest } from '../../testing/test-guest';
import { TestMailServer } from '../../testing/test-mail-server';
import { TestPortal } from '../../testing/test-portal';
import { TestTextGateway } from '../../testing/test-text-gateway';

const MAC = '0e:00:00:00:00:21';
const portal: Portal = {
  ...{ ...NEW_PORTAL, id: randomUUID(), name: 'Visitors', ways: ['mail', 'phone', 'sponsor'], visit: 240 },
  ...{ languages: ['en', 'de'], asks: { name: 'must', company: 'may' } },
  sponsors: {
    ...{ domains: ['skerrow.example'], people: [], told: ['watch@skerrow.example'], within: 30 },
    groups: [{ name: 'Harbour office', people: ['mel@pier.example', 'gone@pier.example'] }],
  },
};
const mail = new TestMailServer();
const gateway = new TestTextGateway();
let place: TestPortal;

beforeAll(async () => {
  place = await TestPortal.open(portal, 'ASK-1');
  const fields = {
    ...{ host: '127.0.0.1', port: await mail.listen(), security: 'none', user: '', authority: '' },
    ...{ from: 'guests@skerrow.example', fromName: 'Skerrow' },
  };
  const { ada } = place;
  expect((await ada.ask('POST', '/api/mail', { version: 0, fields, secret: null })).status).toBe(204);
  const texts = {
    ...{ url: await gateway.listen(), form: 'json', to: 'to', text: 'text', more: '', header: 'X-Key' },
  };
  expect((await ada.ask('POST', '/api/texts', { version: 0, fields: texts, secret: 'gulls' })).status).toBe(204);
});
afterAll(async () => {
  mail.close();
  gateway.close();
  await place.end();
});
beforeEach(async () => {
  mail.came.length = gateway.came.length = 0;
  await place.empty();
});

const NAME = { name: 'Rin Marlow', company: 'Gull & Sons' };
const codeIn = (text: string): string => /\b\d{6}\b/.exec(text)![0];
const linkIn = (text: string): string => /\/answer\/\S+/.exec(text)![0];
const visits = (): Promise<VisitView[]> => place.ada.get('/api/visits');
/** Somebody who answers, in a browser of their own. */
const sponsor = () => new TestGuest(place.origin);
const past = (column: string) =>
  place.setting.controller.database.query(`UPDATE guest_ask SET ${column} = now() - interval '1 minute'`);

test('a guest registers by mail: the code that comes lets it in, and is worth nothing to anybody else', async () => {
  await place.asks(MAC);
  const rin = await place.guest(MAC, 'de');
  await rin.go('/ask/mail');
  await rin.press('/ask/mail', { ...NAME, to: 'rin@gull.example' });
  expect(rin.text).toContain('An r…@gull.example ging ein Code');
  expect(mail.came).toEqual([expect.objectContaining({ to: 'rin@gull.example', from: 'guests@skerrow.example' })]);
  const code = codeIn(mail.came[0]!.text);
  // Another device that knows the code has asked for nothing.
  const mo = await place.guest('0e:00:00:00:00:22');
  await mo.go('/ask/mail');
  await mo.press('/confirm', { code });
  expect(await visits()).toEqual([]);
  await rin.press('/confirm', { code: code === '000000' ? '000001' : '000000' });
  expect([rin.status, rin.text.includes('Dieser Code stimmt nicht')]).toEqual([422, true]);
  await rin.press('/confirm', { code: `${code.slice(0, 3)} ${code.slice(3)}` });
  expect(await place.toldOf(true, MAC)).toBeTruthy();
  expect(await visits()).toEqual([
    expect.objectContaining({
      ...{ mac: MAC, way: 'mail', state: 'in' },
      who: { said: NAME, contact: 'rin@gull.example', proven: true, sponsor: null, whom: null },
    }),
  ]);
  place.complied(MAC);
  await rin.until(({ text }) => text.includes('Sie sind im Internet'));
  // It was right once.
  await rin.press('/confirm', { code });
  expect(await visits()).toHaveLength(1);
});

test('a code is wrong five times at most, and no longer right after half an hour; another may be sent', async () => {
  const rin = await place.guest(MAC);
  await rin.go('/ask/phone');
  await rin.press('/ask/phone', { ...NAME, to: '0353 1 5550123' });
  expect([rin.status, rin.text.includes('no phone number with its country')]).toEqual([422, true]);
  expect(rin.text).toContain('value="Gull &amp; Sons"');
  await rin.press('/ask/phone', { ...NAME, to: '+353 (1) 555 01 23' });
  const sent = () => JSON.parse(gateway.came.at(-1)!.body) as { to: string; text: string };
  expect(sent()).toEqual({ to: '+35315550123', text: expect.stringMatching(/^\d{6} is your code/) });
  const first = codeIn(sent().text);
  for (let i = 0; i < 5; i++) await rin.press('/confirm', { code: `99999${i}` === first ? '111111' : `99999${i}` });
  await rin.press('/confirm', { code: first });
  expect(rin.text).toContain('not right any more');
  await rin.go('/ask/phone');
  await rin.press('/ask/phone', { ...NAME, to: '+35315550123' });
  await past('until');
  await rin.press('/confirm', { code: codeIn(sent().text) });
  expect(await visits()).toEqual([]);
  await rin.go('/ask/phone');
  await rin.press('/ask/phone', { ...NAME, to: '+35315550123' });
  await rin.press('/confirm/again');
  await rin.press('/confirm', { code: codeIn(sent().text) });
  expect(await visits()).toMatchObject([{ way: 'phone', who: { contact: '+35315550123' } }]);
});

test('where first minutes are given a guest is let in at once, once a day, and stays who gives the code', async () => {
  await place.change({ first: 10 });
  try {
    await place.asks(MAC);
    const rin = await place.guest(MAC);
    await rin.go('/ask/mail');
    const begun = Date.now();
    await rin.press('/ask/mail', { ...NAME, to: 'rin@gull.example' });
    const early = await place.toldOf(true, MAC);
    expect(Math.abs(early.until! - begun - 10 * 60_000)).toBeLessThan(20_000);
    place.complied(MAC);
    await rin.until(({ text }) => text.includes('You stay online if you enter the code'));
    expect((await visits())[0]).toMatchObject({ who: { proven: false } });
    await rin.press('/confirm', { code: codeIn(mail.came[0]!.text) });
    const late = await place.toldOf(true, MAC);
    expect(Math.abs(late.until! - begun - 240 * 60_000)).toBeLessThan(20_000);
    expect(await visits()).toMatchObject([{ who: { proven: true } }]);
    // Neither the device nor the address gets them again.
    await place.ada.post('/api/visits/end', { ids: [(await visits())[0]!.id] });
    await place.toldOf(false, MAC);
    await rin.go('/ask/mail');
    await rin.press('/ask/mail', { ...NAME, to: 'other@gull.example' });
    expect(rin.text).toContain('A code was sent to o…@gull.example');
    const mo = await place.guest('0e:00:00:00:00:23');
    await mo.go('/ask/mail');
    await mo.press('/ask/mail', { ...NAME, to: 'RIN@gull.example' });
    expect((await visits()).filter(({ state }) => state === 'in')).toEqual([]);
  } finally {
    await place.change({ first: null });
  }
});

test('somebody who may says yes by the link of a mail, for a shorter time; the guest’s page moves on by itself', async () => {
  await place.asks(MAC);
  const rin = await place.guest(MAC);
  await rin.go('/ask/sponsor');
  await rin.press('/ask/sponsor', { ...NAME, whom: 'ida@skerrow.example', group: '', to: '+35315550123' });
  expect(rin.text).toContain('ida@skerrow.example was asked whether you may come in');
  expect(rin.text).toContain('http-equiv="refresh"');
  // Pressing on too early changes nothing, and says what is waited for.
  await rin.go('/');
  expect(rin.text).toContain('Waiting for an answer');
  const [asked] = mail.came;
  expect([asked!.to, asked!.subject]).toEqual(['ida@skerrow.example', expect.stringContaining('Rin Marlow asks')]);
  expect(asked!.text).toContain('Company: Gull & Sons');
  const ida = sponsor();
  await ida.go(linkIn(asked!.text));
  expect(ida.status).toBe(200);
  for (const part of ['Rin Marlow', 'Gull &amp; Sons', '+35315550123', MAC, '4 hours', '30 minutes'])
    expect(ida.text).toContain(part);
  await ida.go(linkIn(asked!.text)); // as programs do that look at mails
  expect(await visits()).toEqual([]);
  // A while later: nothing of it is remembered any more.
  const later = vi.spyOn(clock, 'now').mockImplementation(() => Date.now() + 2000);
  const begun = Date.now();
  await ida.send(linkIn(asked!.text), { answer: 'yes', minutes: '60' });
  later.mockRestore();
  expect(ida.text).toContain('Let in until');
  const { until } = await place.toldOf(true, MAC);
  expect(Math.abs(until! - begun - 3_600_000)).toBeLessThan(20_000);
  place.complied(MAC);
  await rin.until(({ text }) => text.includes('You are online'));
  // Who hears of everybody does, and the guest too.
  expect(mail.came.map(({ to }) => to)).toEqual(['ida@skerrow.example', 'watch@skerrow.example']);
  expect(gateway.came[0]!.body).toContain('ida@skerrow.example lets you in');
  expect(await visits()).toMatchObject([
    { way: 'sponsor', who: { sponsor: 'ida@skerrow.example', whom: 'ida@skerrow.example', proven: true } },
  ]);
  const [[noted]] = (await place.setting.controller.database.query(
    `SELECT detail FROM journal WHERE act = 'guests.answer' ORDER BY id DESC LIMIT 1`,
  )) as [{ detail: object }[], unknown];
  expect(noted!.detail).toMatchObject({ by: 'ida@skerrow.example', yes: true, minutes: 60 });
  // A link is right once.
  await ida.send(linkIn(asked!.text), { answer: 'no', minutes: '60' });
  expect(ida.text).toContain('ida@skerrow.example has answered already');
  expect((await visits())[0]!.state).toBe('in');
});

test('of a group whoever answers first decides, also of two at once; longer than a visit is as long as a visit', async () => {
  await place.change({ sponsors: { ...portal.sponsors!, groups: TWO } });
  try {
    const rin = await place.guest(MAC);
    await rin.go('/ask/sponsor');
    await rin.press('/ask/sponsor', { ...NAME, group: 'Harbour office' });
    expect(rin.text).toContain('Harbour office was asked');
    expect(mail.came.map(({ to }) => to).sort()).toEqual(['mel@pier.example', 'oz@pier.example']);
    const [mel, oz] = [sponsor(), sponsor()];
    const [first, second] = mail.came.map(({ text }) => linkIn(text)) as [string, string];
    await Promise.all([
      mel.send(first, { answer: 'yes', minutes: '999999' }),
      oz.send(second, { answer: 'no', minutes: '60' }),
    ]);
    const answers = [mel.text, oz.text];
    expect(answers.filter((text) => text.includes('has answered already'))).toHaveLength(1);
    const all = await visits();
    const said = answers[0]!.includes('Let in until');
    expect(all.length).toBe(said ? 1 : 0);
    if (said) expect(Date.parse(all[0]!.until) - Date.now()).toBeLessThanOrEqual(240 * 60_000 + 5000);
  } finally {
    await place.change({ sponsors: portal.sponsors! });
  }
});
const TWO = [{ name: 'Harbour office', people: ['mel@pier.example', 'oz@pier.example'] }];

test('who is refused reads so and may ask again; an answer that comes too late, or is not asked for, does nothing', async () => {
  const rin = await place.guest(MAC);
  const ask = async () => {
    await rin.go('/ask/sponsor');
    await rin.press('/ask/sponsor', { ...NAME, whom: 'ida@skerrow.example' });
    return linkIn(mail.came.at(-1)!.text);
  };
  const ida = sponsor();
  await ida.send(await ask(), { answer: 'no', minutes: '' });
  await rin.go('/');
  expect(rin.text).toContain('The answer is no');
  await rin.press('/ask/leave');
  expect(rin.text).toContain('Ask somebody to let you in');
  const late = await ask();
  await past('until');
  await ida.send(late, { answer: 'yes', minutes: '60' });
  expect([ida.status, ida.text.includes('too late to answer')]).toEqual([410, true]);
  await rin.go('/');
  expect(rin.text).toContain('Nobody answered in time');
  const left = await ask();
  await rin.press('/ask/leave');
  await ida.send(left, { answer: 'yes', minutes: '60' });
  expect([ida.status, await visits()]).toEqual([410, []]);
});

test('nobody but those said may be asked; a group of which one is reached is asked', async () => {
  const rin = await place.guest(MAC);
  await rin.go('/ask/sponsor');
  for (const whom of [
    'rin@gull.example',
    'ida@skerrow.example.gull.example',
    'ida@skerrow.example, x@gull.example',
    '',
  ]) {
    await place.empty();
    await rin.press('/ask/sponsor', { ...NAME, whom });
    expect([whom, rin.status, rin.text.includes('Nobody at that address can let you in')]).toEqual([whom, 422, true]);
  }
  expect(mail.came).toEqual([]);
  await rin.press('/ask/sponsor', { ...NAME, group: 'Harbour office' }); // gone@ is not there
  expect(rin.text).toContain('Harbour office was asked');
  expect(mail.came).toHaveLength(1);
});

test('links that nobody made open nothing, and who tries many is slowed and written down; what is right is answered all the same', async () => {
  const rin = await place.guest(MAC);
  await rin.go('/ask/sponsor');
  await rin.press('/ask/sponsor', { ...NAME, whom: 'ida@skerrow.example' });
  const [, id, which, proof] = /answer\/([^.]+)\.(\d+)\.(\S+)/.exec(mail.came[0]!.text)!;
  const mo = sponsor();
  for (const token of [
    `${id}.${which}.${proof!.slice(0, -2)}AA`,
    `${id}.1.${proof}`,
    `${randomUUID()}.${which}.${proof}`,
    `${id}.${which}.`,
    `${id}.99.${proof}`,
    "x'; DROP TABLE visit; --",
  ]) {
    await mo.send(`/answer/${encodeURIComponent(token)}`, { answer: 'yes', minutes: '60' });
    expect([token, mo.status]).toEqual([token, 404]);
  }
  expect(await visits()).toEqual([]);
  for (let i = 0; i < 20 && mo.status !== 429; i++) await mo.go(`/answer/${randomUUID()}.0.${proof}`);
  expect(mo.status).toBe(429);
  // Whoever is asked may be behind the same address.
  await mo.go(`/answer/${id}.${which}.${proof}`);
  expect([mo.status, mo.text.includes('asks to be let in')]).toEqual([200, true]);
  const [rows] = await place.setting.controller.database.query(`SELECT 1 FROM journal WHERE act = 'guests.forged'`);
  expect(rows).toHaveLength(1);
});

test('one device has so much sent and no more; an address is written to so often and no more', async () => {
  const rin = await place.guest(MAC);
  await rin.go('/ask/mail');
  for (let i = 0; i < 8; i++) await rin.press('/ask/mail', { ...NAME, to: `rin${i}@gull.example` });
  expect([mail.came.length, rin.status, rin.text.includes('You have asked often')]).toEqual([6, 422, true]);
  for (let i = 0; i < 10; i++) {
    const other = await place.guest(`0e:00:00:00:01:0${i}`);
    await other.go('/ask/mail');
    await other.press('/ask/mail', { ...NAME, to: 'mo@gull.example' });
  }
  expect(mail.came.filter(({ to }) => to === 'mo@gull.example')).toHaveLength(8);
});

test('what a guest says leads nobody anywhere, is one line, and is not more than was asked for', async () => {
  const rin = await place.guest(MAC);
  await rin.go('/ask/sponsor');
  await rin.press('/ask/sponsor', { name: 'see http://gull.example', whom: 'ida@skerrow.example' });
  expect(rin.text).toContain('No addresses of pages in “Name”');
  await rin.press('/ask/sponsor', { company: 'Gull', whom: 'ida@skerrow.example' });
  expect(rin.text).toContain('Fill in “Name”');
  await rin.press('/ask/sponsor', {
    ...{ name: 'Rin\r\nBcc: all@gull.example', reason: 'never asked', whom: 'ida@skerrow.example' },
  });
  expect(rin.text).toContain('No addresses of pages');
  await rin.press('/ask/sponsor', { name: '<b>Rin</b>\r\nBcc', reason: 'never asked', whom: 'ida@skerrow.example' });
  expect(mail.came).toHaveLength(1);
  expect(mail.came[0]!.subject).toContain('<b>Rin</b> Bcc');
  expect(mail.came[0]!.text).not.toContain('never asked');
  const ida = sponsor();
  await ida.go(linkIn(mail.came[0]!.text));
  expect(ida.text).toContain('&lt;b&gt;Rin&lt;/b&gt;');
});

test('where nothing can be sent the guest reads so at once, and nothing is waited for', async () => {
  const rin = await place.guest(MAC);
  await rin.go('/ask/mail');
  await rin.press('/ask/mail', { ...NAME, to: 'gone@gull.example' });
  expect([rin.status, rin.text.includes('Nothing could be sent just now')]).toEqual([422, true]);
  await rin.go('/');
  expect(rin.text).toContain('Sign in with your mail address');
});

test('whoever is kept out asks nobody, and a yes does not let it in; erased is all that was said', async () => {
  const rin = await place.guest(MAC);
  await rin.go('/ask/sponsor');
  await rin.press('/ask/sponsor', { ...NAME, whom: 'ida@skerrow.example' });
  await place.ada.post(`/api/guests/${MAC}/block`, { on: true });
  const ida = sponsor();
  await ida.send(linkIn(mail.came[0]!.text), { answer: 'yes', minutes: '60' });
  expect([ida.status, await visits()]).toEqual([410, []]);
  await rin.go('/ask/sponsor');
  await rin.press('/ask/sponsor', { ...NAME, whom: 'ida@skerrow.example' });
  expect(rin.text).toContain('You cannot be let in');
  await place.ada.post(`/api/guests/${MAC}/block`, { on: false });
  await place.ada.ask('POST', '/api/clients/forget', { macs: [MAC] });
  const [kept] = await place.setting.controller.database.query('SELECT 1 FROM guest_ask');
  expect(kept).toEqual([]);
});

test('where mail cannot be sent a portal that needs it is found wrong, and not any more once it can', async () => {
  const found = async (): Promise<string[]> =>
    (await place.ada.get(`/api/drafts/current/sites/${place.siteId}`)).consequences.findings.map(
      ({ code }: { code: string }) => code,
    );
  expect(await found()).not.toContain('guests.cannot-send');
  const { mail: kept } = await place.ada.get('/api/mail');
  await place.ada.ask('DELETE', '/api/mail');
  await expect.poll(found).toContain('guests.cannot-send');
  await place.ada.ask('POST', '/api/mail', { version: 0, fields: kept.fields, secret: null });
  await expect.poll(found).not.toContain('guests.cannot-send');
});
