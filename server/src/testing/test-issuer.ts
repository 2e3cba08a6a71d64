import { createHash, generateKeyPairSync, randomBytes, sign, type KeyObject } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';

/** What is said of somebody, or bent. */
export interface IssuedClaims {
  readonly email?: string;
  readonly email_verified?: boolean;
  readonly name?: string;
  readonly nonce?: string;
  readonly aud?: string;
  readonly iss?: string;
  readonly exp?: number;
}

const base64 = (value: object): string => Buffer.from(JSON.stringify(value)).toString('base64url');

/** Keeps accounts elsewhere (OpenID Connect), in the hands of a test. */
export class TestIssuer {
  private readonly keys = generateKeyPairSync('rsa', { modulusLength: 2048 });
  private readonly codes = new Map<string, { readonly claims: IssuedClaims; readonly asked: URLSearchParams }>();
  /** Signs with this instead of what it says that it does. */
  signer: KeyObject = this.keys.privateKey;
  /** What it answers to everything; null: as it should. */
  says: { readonly status: number; readonly body: string; readonly location?: string } | null = null;
  /** How often a code was given back to it. */
  tokens = 0;

  private constructor(private readonly server: Server) {}

  static async open(): Promise<TestIssuer> {
    const server = createServer();
    const issuer = new TestIssuer(server);
    server.on('request', (request, response) => {
      const chunks: Buffer[] = [];
      request.on('data', (chunk: Buffer) => chunks.push(chunk));
      request.on('end', () => {
        const { status, body, location } = issuer.answer(request.url ?? '', Buffer.concat(chunks).toString());
        response.writeHead(status, { 'content-type': 'application/json', ...(location ? { location } : {}) }).end(body);
      });
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    return issuer;
  }

  get url(): string {
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  /** Somebody signs in where a portal sent them. @returns what stands behind the path that they are sent back to. */
  signIn(away: string, claims: IssuedClaims = {}): string {
    const asked = new URL(away).searchParams;
    const code = randomBytes(8).toString('hex');
    this.codes.set(code, { claims, asked });
    return `?${new URLSearchParams({ code, state: asked.get('state')! }).toString()}`;
  }

  end(): Promise<void> {
    return new Promise((resolve) => this.server.close(() => resolve()));
  }

  private answer(path: string, body: string): { status: number; body: string; location?: string } {
    if (this.says) return this.says;
    const { url } = this;
    const json = (status: number, of: object) => ({ status, body: JSON.stringify(of) });
    if (path === '/.well-known/openid-configuration')
      return json(200, {
        ...{
          issuer: url,
          authorization_endpoint: `${url}/in`,
          token_endpoint: `${url}/token`,
          jwks_uri: `${url}/keys`,
        },
        ...{ response_types_supported: ['code'], id_token_signing_alg_values_supported: ['RS256'] },
        subject_types_supported: ['public'],
      });
    if (path === '/keys')
      return json(200, {
        keys: [{ ...this.keys.publicKey.export({ format: 'jwk' }), kid: 'k', alg: 'RS256', use: 'sig' }],
      });
    const given = new URLSearchParams(body);
    const found = this.codes.get(given.get('code') ?? '');
    this.tokens++;
    this.codes.delete(given.get('code') ?? '');
    const challenge = createHash('sha256')
      .update(given.get('code_verifier') ?? '')
      .digest('base64url');
    const { claims, asked } = found ?? {};
    const fits =
      asked?.get('code_challenge') === challenge &&
      asked.get('redirect_uri') === given.get('redirect_uri') &&
      given.get('client_secret') === 'fathom line';
    if (!asked || !fits) return json(400, { error: 'invalid_grant' });
    const now = Math.floor(Date.now() / 1000);
    const said = { iss: url, aud: given.get('client_id'), sub: 'somebody', iat: now, exp: now + 60 };
    const payload = { ...said, nonce: asked.get('nonce'), ...claims };
    const text = `${base64({ alg: 'RS256', kid: 'k' })}.${base64(payload)}`;
    const id_token = `${text}.${sign('sha256', Buffer.from(text), this.signer).toString('base64url')}`;
    return json(200, { access_token: 'x', token_type: 'Bearer', id_token });
  }
}
