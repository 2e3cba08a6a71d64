/** Whom a directory of the made-up world knows. */
export interface LdapFile {
  /** Its topmost entry, such as `dc=example`. */
  readonly base: string;
  /** Accounts of programs that may search it; `passwords`: it may look at those, too, which it should not. */
  readonly accounts: Readonly<Record<string, { readonly password: string; readonly rights: 'least' | 'passwords' }>>;
  /** Whether anybody may search. */
  readonly anybody?: boolean;
  /** By what they sign in as. */
  readonly people: Readonly<
    Record<string, { readonly name: string; readonly password: string; readonly groups: readonly string[] }>
  >;
}

/** One entry: its distinguished name, and its attributes. */
export interface LdapEntry {
  readonly dn: string;
  readonly attributes: Readonly<Record<string, readonly string[]>>;
}

/** What a value has escaped in a distinguished name (RFC 4514 §2.4). */
const escaped = (value: string): string => value.replace(/[,+"\\<>;=]/g, '\\$&');

/** All entries of a directory: people under `ou=people`, groups under `ou=groups`. */
export function entriesOf({ base, people }: LdapFile): LdapEntry[] {
  const groups = [...new Set(Object.values(people).flatMap((each) => each.groups))].sort();
  const dnOf = (uid: string): string => `uid=${escaped(uid)},ou=people,${base}`;
  const groupDn = (name: string): string => `cn=${escaped(name)},ou=groups,${base}`;
  return [
    { dn: base, attributes: { objectClass: ['domain'] } },
    ...['people', 'groups'].map((ou) => ({
      ...{ dn: `ou=${ou},${base}`, attributes: { objectClass: ['organizationalUnit'], ou: [ou] } },
    })),
    ...Object.entries(people).map(([uid, { name, password, groups: mine }]) => ({
      dn: dnOf(uid),
      attributes: {
        ...{ objectClass: ['person', 'inetOrgPerson'], uid: [uid], cn: [name], userPassword: [password] },
        ...(mine.length > 0 ? { memberOf: mine.map(groupDn) } : {}),
      },
    })),
    ...groups.map((name) => ({
      dn: groupDn(name),
      attributes: {
        ...{ objectClass: ['groupOfNames'], cn: [name] },
        member: Object.entries(people).flatMap(([uid, each]) => (each.groups.includes(name) ? [dnOf(uid)] : [])),
      },
    })),
  ];
}
