import { createHash } from 'node:crypto';
import { createLocalJWKSet, jwtVerify } from 'jose';
import { expect, test } from 'vitest';
import { ACCOUNTS, AccountIssuerStandIn, ISSUER_CLIENT } from './issuer';

const ORIGIN = 'http://127.0.0.1:8621';
const ISSUER = `${ORIGIN}/accounts`;
const VERIFIER = 'a'.repeat(43);
const asked = {
  ...{ client_id: ISSUER_CLIENT.id, redirect_uri: 'http://127.0.0.1:8624/account/back', state: 's', nonce: 'n' },
  code_challenge: createHash('sha256').update(VERIFIER).digest('base64url'),
  code_challenge_method: 'S256',
};
const form = (fields: object): Buffer => Buffer.from(new URLSearchParams(fields as Record<string, string>).toString());
const [tove] = ACCOUNTS;

test('somebody signs in, and a client learns once who it is, in a token that its keys prove', async () => {
  const standIn = new AccountIssuerStandIn();
  const at = (path: string, body: Buffer = Buffer.alloc(0), now?: number) =>
    standIn.answer(ORIGIN, `/accounts${path}`, body, now);
  const config = JSON.parse((await at('/.well-known/openid-configuration')).body);
  expect(config).toMatchObject({ issuer: ISSUER, token_endpoint: `${ISSUER}/token` });
  const question = `/sign-in?${form(asked).toString()}`;
  expect((await at(question)).body).toContain('Somebody else’s page');
  expect((await at(question, form({ mail: tove.mail, password: 'x' }))).status).toBe(401);
  const signedIn = async (): Promise<string> => {
    const { status, location } = await at(question, form({ mail: tove.mail, password: tove.password }));
    const back = new URL(location!);
    expect([status, back.origin + back.pathname, back.searchParams.get('state')]).toEqual([
      303,
      asked.redirect_uri,
      's',
    ]);
    return back.searchParams.get('code')!;
  };
  const of = { client_id: ISSUER_CLIENT.id, client_secret: ISSUER_CLIENT.secret, redirect_uri: asked.redirect_uri };
  const token = (code: string, more = {}, now?: number) =>
    at('/token', form({ ...of, code, code_verifier: VERIFIER, ...more }), now);
  const code = await signedIn();
  const { id_token: idToken } = JSON.parse((await token(code)).body);
  const keys = createLocalJWKSet(JSON.parse((await at('/keys')).body));
  const { payload } = await jwtVerify(idToken, keys, { issuer: ISSUER, audience: ISSUER_CLIENT.id });
  expect(payload).toMatchObject({ email: tove.mail, email_verified: true, name: tove.name, nonce: 'n' });
  expect((await token(code)).status).toBe(400); // right once
  for (const more of [{ code_verifier: 'b'.repeat(43) }, { redirect_uri: 'http://127.0.0.1:9/' }])
    expect((await token(await signedIn(), more)).status).toBe(400);
  expect((await token(await signedIn(), { client_secret: 'x' })).status).toBe(401);
  expect((await token(await signedIn(), {}, Date.now() + 61_000)).status).toBe(400);
  expect((await at(`/sign-in?${form({ ...asked, client_id: 'x' }).toString()}`)).status).toBe(400);
  expect((await at('/else')).status).toBe(404);
});
