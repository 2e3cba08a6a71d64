import { createHash, randomBytes } from 'node:crypto';
import { html } from '@iron-lattice/core/guests';
import { exportJWK, generateKeyPair, SignJWT } from 'jose';

/** What a controller is known as, by which it proves that it is it, and how long a code is right, in milliseconds. */
export const ISSUER_CLIENT = { id: 'skerrow-guests', secret: 'bollard and fender' } as const;
const CODE_MS = 60_000;
/** Codes that are kept, and octets of what is sent. */
const [MOST_CODES, MOST_OCTETS] = [1000, 10_000];
/** Path of all of it. */
export const ISSUER_PATH = '/accounts';

/** People who have an account. */
export const ACCOUNTS = [
  { mail: 'tove@gull.example', password: 'sea pink 5', name: 'Tove Lindqvist', proven: true },
  { mail: 'rin@skerrow.example', password: 'storm lamp 8', name: 'Rin Calder', proven: true },
  { mail: 'ned@pier.example', password: 'loose knot 1', name: 'Ned Oake', proven: false },
] as const;

/** What is answered, as of HTTP. */
export interface IssuerAnswer {
  readonly status: number;
  readonly type: string;
  readonly body: string;
  readonly location?: string;
}

/** Somebody who signed in, for whom a client may ask once. */
interface Given {
  readonly account: (typeof ACCOUNTS)[number];
  readonly client: string;
  readonly back: string;
  readonly challenge: string;
  readonly nonce: string;
  readonly at: number;
}

/** Keeps accounts that guests sign in with elsewhere (OpenID Connect Core 1.0 §3.1, with RFC 7636), for whoever has none to try it with. */
export class AccountIssuerStandIn {
  private readonly codes = new Map<string, Given>();
  private readonly keys = generateKeyPair('RS256');

  /** What is answered to a request. @param origin of all of it, such as `http://127.0.0.1:8621`. @param path with what stands behind it. */
  async answer(origin: string, path: string, body: Buffer, now = Date.now()): Promise<IssuerAnswer> {
    const issuer = `${origin}${ISSUER_PATH}`;
    const url = new URL(path, origin);
    if (body.length > MOST_OCTETS) return plain(413, 'Too long');
    switch (url.pathname.slice(ISSUER_PATH.length)) {
      case '/.well-known/openid-configuration':
        return json(200, {
          issuer,
          authorization_endpoint: `${issuer}/sign-in`,
          token_endpoint: `${issuer}/token`,
          jwks_uri: `${issuer}/keys`,
          response_types_supported: ['code'],
          subject_types_supported: ['public'],
          id_token_signing_alg_values_supported: ['RS256'],
          token_endpoint_auth_methods_supported: ['client_secret_post'],
          code_challenge_methods_supported: ['S256'],
        });
      case '/keys': {
        const key = await exportJWK((await this.keys).publicKey);
        return json(200, { keys: [{ ...key, kid: 'one', alg: 'RS256', use: 'sig' }] });
      }
      case '/sign-in':
        return this.signIn(url.searchParams, new URLSearchParams(body.toString('utf8')), now);
      case '/token':
        return this.token(issuer, new URLSearchParams(body.toString('utf8')), now);
    }
    return plain(404, 'Nothing is here');
  }

  private signIn(asked: URLSearchParams, typed: URLSearchParams, now: number): IssuerAnswer {
    const [client, back] = [asked.get('client_id'), asked.get('redirect_uri')];
    const challenge = asked.get('code_challenge');
    if (client !== ISSUER_CLIENT.id || !back || asked.get('code_challenge_method') !== 'S256' || !challenge)
      return plain(400, 'This is not how a controller asks');
    if (!typed.has('mail')) return page(200, asked, '');
    const account = ACCOUNTS.find(
      ({ mail, password }) => mail === typed.get('mail') && password === typed.get('password'),
    );
    if (!account) return page(401, asked, 'That is not right together.');
    const code = randomBytes(24).toString('base64url');
    const nonce = asked.get('nonce') ?? '';
    this.codes.set(code, { account, client, back, challenge, nonce, at: now });
    for (const [oldest] of this.codes) {
      if (this.codes.size <= MOST_CODES) break;
      this.codes.delete(oldest);
    }
    const location = new URL(back);
    location.searchParams.set('code', code);
    location.searchParams.set('state', asked.get('state') ?? '');
    return { ...plain(303, ''), location: location.href };
  }

  private async token(issuer: string, asked: URLSearchParams, now: number): Promise<IssuerAnswer> {
    if (asked.get('client_id') !== ISSUER_CLIENT.id || asked.get('client_secret') !== ISSUER_CLIENT.secret)
      return json(401, { error: 'invalid_client' });
    const code = asked.get('code') ?? '';
    const given = this.codes.get(code);
    this.codes.delete(code); // right once
    const verifier = createHash('sha256')
      .update(asked.get('code_verifier') ?? '')
      .digest('base64url');
    const fits = given && given.challenge === verifier && given.back === asked.get('redirect_uri');
    if (!fits || now > given.at + CODE_MS) return json(400, { error: 'invalid_grant' });
    const { mail, name, proven } = given.account;
    const token = await new SignJWT({ email: mail, email_verified: proven, name, nonce: given.nonce })
      .setProtectedHeader({ alg: 'RS256', kid: 'one' })
      .setIssuer(issuer)
      .setAudience(given.client)
      .setSubject(mail)
      .setIssuedAt()
      .setExpirationTime('5m')
      .sign((await this.keys).privateKey);
    return json(200, {
      access_token: randomBytes(16).toString('hex'),
      token_type: 'Bearer',
      expires_in: 300,
      id_token: token,
    });
  }
}

const json = (status: number, body: object): IssuerAnswer => ({
  ...{ status, type: 'application/json', body: JSON.stringify(body) },
});
const plain = (status: number, body: string): IssuerAnswer => ({ status, type: 'text/plain; charset=utf-8', body });

function page(status: number, asked: URLSearchParams, flaw: string): IssuerAnswer {
  const body = html`<!doctype html>
    <html lang="en">
      <meta charset="utf-8" />
      <meta name="viewport" content="width=device-width" />
      <title>Pier accounts</title>
      <style>
        body {
          font:
            17px/1.5 system-ui,
            sans-serif;
          max-width: 26rem;
          margin: 2rem auto;
          padding: 0 1rem;
        }
        label,
        input,
        button {
          display: block;
          width: 100%;
          font: inherit;
          margin: 0.4rem 0;
          padding: 0.5rem;
        }
        label {
          padding: 0;
        }
      </style>
      <h1>Pier accounts</h1>
      <p>Somebody else’s page, where people have accounts. It ships with the demo.</p>
      ${flaw === '' ? null : html`<p role="alert">${flaw}</p>`}
      <form method="post" action="?${asked.toString()}">
        <label for="mail">Mail address</label>
        <input id="mail" name="mail" type="email" required autocomplete="username" />
        <label for="password">Password</label>
        <input id="password" name="password" type="password" required autocomplete="current-password" />
        <button>Sign in</button>
      </form>
    </html>`.text;
  return { status, type: 'text/html; charset=utf-8', body };
}
