import { generateKeyPairSync, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { AccountIssuer, VisitView } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Operation, type Portal } from '@iron-lattice/core/intent';
import type { TestGuest } from '../../testing/test-guest';
import { TestIssuer, type IssuedClaims } from '../../testing/test-issuer';
import { TestPortal } from '../../testing/test-portal';

const MAC = '0e:00:00:00:00:61';
const PROVEN = { email: 'Tove@Gull.example', email_verified: true, name: 'Tove Lindqvist' } as const;
let issuer: TestIssuer;
let place: TestPortal;
let portal: Portal;
let account: AccountIssuer;

beforeAll(async () => {
  issuer = await TestIssuer.open();
  const secret = randomUUID();
  portal = { ...NEW_PORTAL, id: randomUUID(), name: 'Visitors', ways: ['account'], visit: 90 };
  place = await TestPortal.open(portal, 'ACC-1');
  account = { name: 'Pier account', issuer: issuer.url, client: 'lattice', secret: { secret }, domains: [] };
  const edit: Operation = { type: 'portal.set', portalId: portal.id, from: { account: null }, to: { account } };
  const rollout = place.rollOutWith({ [secret]: 'fathom line' }, edit);
  const { hash, document } = await place.box.next('document');
  // Whoever keeps the accounts is reached before.
  expect(document).toMatchObject({ ssids: [{ portal: { garden: ['127.0.0.1'] } }] });
  place.box.say({ type: 'applied', hash });
  await place.box.next('keep');
  place.box.say({ type: 'kept', hash });
  expect((await rollout).status).toBe(201);
  await place.asks(MAC);
  await (await place.guest(MAC)).until(({ text }) => text.includes('Sign in with Pier account'));
});
afterAll(async () => {
  await place.end();
  await issuer.end();
});
beforeEach(() => place.empty());

const visits = (): Promise<VisitView[]> => place.ada.get('/api/visits');
/** Presses the way there. @returns where that is. */
async function away(guest: TestGuest): Promise<string> {
  await guest.press('/account');
  expect(guest.status).toBe(200);
  return /class="way" href="([^"]+)"/.exec(guest.text)![1]!.replaceAll('&amp;', '&').replaceAll('&#x3D;', '=');
}
/** Goes there, signs in, and comes back. */
async function signsIn(claims: IssuedClaims = PROVEN): Promise<TestGuest> {
  const guest = await place.guest(MAC);
  await guest.go(`/account/back${issuer.signIn(await away(guest), claims)}`);
  return guest;
}

test('a guest signs in with an account elsewhere, by a code with PKCE, and is named where visits are', async () => {
  const guest = await place.guest(MAC);
  expect(guest.text).toContain('Sign in with Pier account');
  const url = new URL(await away(guest));
  expect(url.origin).toBe(issuer.url);
  expect(Object.fromEntries(url.searchParams)).toMatchObject({
    ...{ client_id: 'lattice', response_type: 'code', scope: 'openid email profile', code_challenge_method: 'S256' },
    redirect_uri: `${place.origin}/account/back`,
  });
  const back = issuer.signIn(url.href, PROVEN);
  await guest.go(`/account/back${back}`);
  await place.toldOf(true, MAC);
  expect(await visits()).toMatchObject([
    { way: 'account', who: { said: { name: 'Tove Lindqvist' }, contact: 'Tove@Gull.example', proven: true } },
  ]);
  // What brought it back is right once, and for one browser.
  const before = issuer.tokens;
  await place.empty();
  await guest.go(`/account/back${back}`);
  await (await place.guest(MAC)).go(`/account/back${back}`);
  expect([issuer.tokens, await visits()]).toEqual([before, []]);
});

test('accounts of other domains, and addresses that are not proven, are not let in where domains are said', async () => {
  const to = { account: { ...account, domains: ['gull.example'] } };
  const said = await place.rollOut({ type: 'portal.set', portalId: portal.id, from: { account }, to });
  expect(said.status).toBe(201);
  await expect
    .poll(
      async () => {
        await place.empty();
        return (await signsIn({ ...PROVEN, email: 'ned@pier.example' })).text;
      },
      { timeout: 10_000 },
    )
    .toContain('This account is not let in here');
  expect((await signsIn({ ...PROVEN, email_verified: false })).status).toBe(422);
  expect((await signsIn({ ...PROVEN, email: 'x@notgull.example' })).status).toBe(422);
  expect(await visits()).toEqual([]);
  await signsIn();
  expect(await visits()).toHaveLength(1);
});

test('what an issuer did not say, or not of this journey, lets nobody in, and an issuer that fails is told apart', async () => {
  const stranger = generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey;
  const own = issuer.signer;
  for (const [name, claims] of Object.entries({
    'another nonce': { nonce: 'x' },
    'another audience': { aud: 'somebody-else' },
    'another issuer': { iss: 'https://else.example' },
    'long ago': { exp: 1 },
  })) {
    await place.empty();
    expect([name, (await signsIn({ ...PROVEN, ...claims })).status]).toEqual([name, 422]);
  }
  await place.empty();
  issuer.signer = stranger;
  expect((await signsIn()).status).toBe(422);
  issuer.signer = own;
  const guest = await place.guest(MAC);
  const back = issuer.signIn(await away(guest), PROVEN);
  await guest.go(`/account/back${back.replace(/state=./, 'state=')}`);
  expect([guest.status, await visits()]).toEqual([422, []]);
  // Neither an answer that never ends nor one that leads elsewhere is followed; none of it is held against whoever came.
  for (const says of [
    { status: 200, body: 'x'.repeat(300_000) },
    { status: 302, body: '', location: 'http://127.0.0.1:1/' },
    { status: 500, body: '{}' },
  ]) {
    await place.empty();
    const next = await place.guest(MAC);
    const bring = issuer.signIn(await away(next), PROVEN);
    issuer.says = says;
    await next.go(`/account/back${bring}`);
    issuer.says = null;
    const [counted] = await place.setting.controller.database.query('SELECT 1 FROM sign_in_limit');
    expect(counted).toEqual([]);
    expect([says.status, next.status, await visits()]).toEqual([says.status, 503, []]);
  }
});

test('whoever comes back too often with what is not right waits, and the issuer is left alone meanwhile', async () => {
  const guest = await place.guest(MAC);
  const seen: number[] = [];
  for (let i = 0; i < 12; i++) {
    await guest.go('/account');
    await guest.press('/account');
    if (guest.status === 429) break;
    await guest.go('/account/back?code=x&state=y');
    seen.push(guest.status);
  }
  expect([guest.status, seen.every((each) => each === 422 || each === 429)]).toEqual([429, true]);
});
