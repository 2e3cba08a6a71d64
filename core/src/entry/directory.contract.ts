/** How what is said to a directory is kept from others. */
export const DIRECTORY_SECURITY = ['ldaps', 'starttls', 'none'] as const;
export type DirectorySecurity = (typeof DIRECTORY_SECURITY)[number];

/** A directory that is asked for users that the controller does not keep itself (LDAP, RFC 4511). */
export interface DirectoryFields {
  /** Name or address of its host. */
  readonly host: string;
  readonly port: number;
  readonly security: DirectorySecurity;
  /** Certificates by which it is believed, as PEM; empty: those that this machine believes anyhow. */
  readonly authority: string;
  /** The account by which it is searched: a distinguished name (RFC 4514); empty: none, it is searched by nobody in particular. */
  readonly account: string;
  /** Below which entry people are searched. */
  readonly base: string;
  /** Finds whoever signs in (RFC 4515); `{name}` is the name that they say. */
  readonly filter: string;
  /** The attribute of an entry whose values are its groups; empty: groups are searched. */
  readonly groupAttribute: string;
  /** Else finds groups, below `groupBase`; `{dn}` is the entry’s name. */
  readonly groupBase: string;
  readonly groupFilter: string;
  /** Whether nobody is asked there for the time being. */
  readonly off: boolean;
}
export const USUAL_DIRECTORY: DirectoryFields = {
  ...{ host: '', port: 636, security: 'ldaps', authority: '', account: '', base: '' },
  ...{ filter: '(&(objectClass=person)(uid={name}))', groupAttribute: 'memberOf' },
  ...{ groupBase: '', groupFilter: '(member={dn})', off: false },
};
/** The port that is usual. */
export const directoryPort = (security: DirectorySecurity): number => (security === 'ldaps' ? 636 : 389);

/**
 * How asking it ends, where it does not end as wished. `unresolved`, `unreachable`, `silent`: nobody is found or answers. `untrusted`:
 * its certificate is not believed. `unencrypted`: it does not do TLS. `account`: the account is refused. `base`: there is no such entry.
 * `rights`: the account may not search there. `size`: more is found than it tells. `several`: more than one fits a name. `filter`: it does not take
 * the filter. `other`: it says something else.
 */
export const DIRECTORY_FAULTS = [
  ...([
    'unresolved',
    'unreachable',
    'silent',
    'untrusted',
    'unencrypted',
    'account',
    'base',
    'rights',
    'size',
  ] as const),
  ...(['several', 'filter', 'other'] as const),
] as const;
export type DirectoryFault = (typeof DIRECTORY_FAULTS)[number];

/** One thing that was asked, and what was answered. */
export interface DirectoryStep {
  readonly asked: string;
  readonly said: readonly string[];
  readonly ok: boolean;
  /** Milliseconds. */
  readonly ms: number;
}

/** Of what more than the least an account may: nothing; read what passwords are kept as; and whether anybody may search without an account. */
export interface DirectoryRights {
  readonly passwords: boolean;
  readonly anybody: boolean;
}

/** What came of trying a directory with somebody. */
export interface DirectoryTried {
  readonly steps: readonly DirectoryStep[];
  readonly fault: DirectoryFault | null;
  /** In words: what happened. */
  readonly words: string;
  /** Whether the password is theirs; null: it was not looked at. */
  readonly right: boolean | null;
  /** Distinguished name of whoever was found, and names of the groups; null: nobody was. */
  readonly found: { readonly dn: string; readonly groups: readonly string[] } | null;
  readonly rights: DirectoryRights | null;
}

/** What is tried: somebody of a directory as it stands on the screen. */
export interface DirectoryTry {
  readonly fields: DirectoryFields;
  /** Of the account; null: the one that is kept. */
  readonly secret: string | null;
  readonly name: string;
  /** Empty: nobody signs in, it is looked for alone. */
  readonly password: string;
}

/** How it fares, as it was seen last. */
export interface DirectoryHealth {
  /** ISO 8601. */
  readonly at: string;
  readonly fault: DirectoryFault | null;
  readonly words: string;
  readonly rights: DirectoryRights | null;
}
export interface DirectoryView {
  readonly fields: DirectoryFields;
  readonly version: number;
  /** Whether a password of the account is kept. */
  readonly hasSecret: boolean;
  /** Null: it was not looked at yet. */
  readonly health: DirectoryHealth | null;
}
