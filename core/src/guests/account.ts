import type { SecretRef } from '../base';

/** Whoever keeps accounts that guests sign in with (an OpenID provider, OpenID Connect Core 1.0). */
export interface AccountIssuer {
  /** What guests know their account as. */
  readonly name: string;
  /** Its issuer identifier: where its configuration is found (OpenID Connect Discovery 1.0 §4). */
  readonly issuer: string;
  /** What it knows this controller as. */
  readonly client: string;
  /** By which this controller proves that; null: by nothing but the code challenge (RFC 7636). */
  readonly secret: SecretRef | null;
  /** Mail domains whose accounts are let in; empty: every account. */
  readonly domains: readonly string[];
}

/** Characters of each. */
export const MOST_ISSUER = { name: 40, issuer: 300, client: 200, secret: 512 } as const;
/** The path at which an issuer sends guests back to the portal. */
export const ACCOUNT_BACK = '/account/back';
