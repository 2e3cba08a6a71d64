import { ACCOUNT_BACK, isOfDomains, MOST_FIELD, readPage, type AccountIssuer } from '@iron-lattice/core/guests';
import {
  allowInsecureRequests,
  authorizationCodeGrant,
  AuthorizationResponseError,
  buildAuthorizationUrl,
  calculatePKCECodeChallenge,
  ClientSecretPost,
  customFetch,
  discovery,
  enableNonRepudiationChecks,
  None,
  randomNonce,
  randomPKCECodeVerifier,
  randomState,
  ResponseBodyError,
  type Configuration,
} from 'openid-client';
import type { Sequelize } from 'sequelize';
import type { SecretService } from '../../intent/secret.service';
import type { LivePortal } from '../portals-live';
import { letInProven } from '../proven-guest';
import type { Guest, VisitService } from '../visit.service';
import { issuerFetch } from './issuer-fetch';

/** How long what an issuer says of itself is remembered, of how many, and how long an answer of it is waited for, in seconds. */
const [REMEMBERED_MS, MOST_ISSUERS, PATIENCE] = [10 * 60_000, 200, 8];
/** Issuers that are asked at once. */
const MOST_ASKED = 50;
/** Characters of a mail address (RFC 5321 §4.5.3.1). */
const MOST_MAIL = 254;

/** What a browser brings back from where it signed in. */
export interface Journey {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
}

/** What comes of it: let in, an account that is not, no proof of one, or nobody who can be asked just now. */
export type Entered = 'in' | 'not' | 'wrong' | 'later';

/** Guests who sign in with an account elsewhere: by a code that is right once, with PKCE (OpenID Connect Core 1.0 §3.1, RFC 7636). */
export class AccountWay {
  private readonly known = new Map<string, { readonly at: number; readonly found: Promise<Configuration> }>();
  private asking = 0;

  constructor(
    private readonly database: Sequelize,
    private readonly visits: VisitService,
    private readonly secrets: Pick<SecretService, 'openOne'>,
    private readonly originUrl: () => string,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Where a guest signs in, and what it has to bring back; null: its issuer cannot be asked. */
  async begin(account: AccountIssuer): Promise<{ readonly url: string; readonly journey: Journey } | null> {
    const journey = { state: randomState(), nonce: randomNonce(), verifier: randomPKCECodeVerifier() };
    const config = await this.asked(() => this.of(account));
    if (typeof config === 'string') return null;
    const url = buildAuthorizationUrl(config, {
      redirect_uri: `${this.originUrl()}${ACCOUNT_BACK}`,
      scope: 'openid email profile',
      state: journey.state,
      nonce: journey.nonce,
      code_challenge: await calculatePKCECodeChallenge(journey.verifier),
      code_challenge_method: 'S256',
    });
    // Somebody’s browser is sent there: an issuer cannot make it another thing than a page.
    return /^https?:$/.test(url.protocol) ? { url: url.href, journey } : null;
  }

  /** Lets a guest in who comes back. @param question what stands behind the path. */
  async comesBack(
    guest: Guest,
    live: LivePortal,
    account: AccountIssuer,
    question: string,
    journey: Journey,
  ): Promise<Entered> {
    const config = await this.asked(() => this.of(account));
    if (typeof config === 'string') return 'later';
    const { state, nonce, verifier } = journey;
    const back = new URL(`${this.originUrl()}${ACCOUNT_BACK}${question}`);
    const checks = { expectedState: state, expectedNonce: nonce, pkceCodeVerifier: verifier, idTokenExpected: true };
    const tokens = await this.asked(() => authorizationCodeGrant(config, back, checks));
    if (typeof tokens === 'string') return tokens;
    const claims = tokens.claims();
    if (!claims) return 'wrong';
    const text = (value: unknown, most: number): string => (typeof value === 'string' ? value.slice(0, most) : '');
    const mail = text(claims['email'], MOST_MAIL);
    const isProven = mail !== '' && claims['email_verified'] === true;
    if (account.domains.length > 0 && !(isProven && isOfDomains(mail, account.domains))) return 'not';
    const name = text(claims['name'], MOST_FIELD.name) || mail || text(claims.sub, MOST_FIELD.name);
    const proven = { name, mail: isProven ? mail : null };
    return (await letInProven(this.database, this.visits, guest, live, 'account', proven)) ? 'in' : 'not';
  }

  /** What an issuer says of itself, with what it knows this controller as. */
  private of({ issuer, client, secret }: AccountIssuer): Promise<Configuration> {
    const key = JSON.stringify([issuer, client, secret]);
    const known = this.known.get(key);
    if (known && performance.now() - known.at < REMEMBERED_MS) return known.found;
    if (this.known.size >= MOST_ISSUERS) this.known.clear();
    const found = this.discover(issuer, client, secret && secret.secret);
    this.known.set(key, { at: performance.now(), found });
    found.catch(() => this.known.delete(key));
    return found;
  }

  private async discover(issuer: string, client: string, secretId: string | null): Promise<Configuration> {
    const proof = secretId === null ? None() : ClientSecretPost(await this.secrets.openOne(secretId));
    const plain = readPage(issuer)?.secure === false; // of this machine alone, as it is checked where it is said
    return discovery(new URL(issuer), client, undefined, proof, {
      execute: [enableNonRepudiationChecks, ...(plain ? [allowInsecureRequests] : [])],
      timeout: PATIENCE,
      [customFetch]: issuerFetch,
    });
  }

  /** What an issuer is asked; else whether what somebody brought back is wrong, or the issuer cannot be asked, or too much is. */
  private async asked<T extends object>(ask: () => Promise<T>): Promise<T | 'wrong' | 'later'> {
    if (this.asking >= MOST_ASKED) return 'later';
    this.asking++;
    try {
      return await ask();
    } catch (error) {
      this.failed(error);
      return isWrong(error) ? 'wrong' : 'later';
    } finally {
      this.asking--;
    }
  }
}

/** What says that a token, or what was brought back, is not right; whatever else fails is no fault of whoever came. */
const WRONG = ['OAUTH_JWT_CLAIM_COMPARISON_FAILED', 'OAUTH_JWT_TIMESTAMP_CHECK_FAILED', 'OAUTH_INVALID_RESPONSE'];

function isWrong(error: unknown): boolean {
  if (error instanceof AuthorizationResponseError) return true;
  if (error instanceof ResponseBodyError) return error.status < 500;
  const { code } = error as { readonly code?: unknown };
  return typeof code === 'string' && WRONG.includes(code);
}
