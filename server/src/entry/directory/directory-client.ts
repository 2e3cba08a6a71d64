import { connect, isIP } from 'node:net';
import type { ConnectionOptions } from 'node:tls';
import {
  DN_MARK,
  filterFor,
  groupNameOf,
  MOST_GROUPS_FOUND,
  NAME_MARK,
  type DirectoryFault,
  type DirectoryFields,
  type DirectoryRights,
  type DirectoryStep,
} from '@iron-lattice/core/entry';
import { Client, FilterParser, InvalidCredentialsError, ResultCodeError, type Entry } from 'ldapts';

/** How long a connection, and an answer, is waited for, in milliseconds. */
const PATIENCE_MS = 3000;
/** Entries that fit one name: more than one is too many. */
const MOST_FOUND = 2;
/** Lines of an answer that are told, and characters of one. */
const [MOST_LINES, MOST_LINE] = [30, 300];
/** Where passwords are kept (RFC 4519 §2.41): of anybody but the directory itself to be read. */
const PASSWORD = 'userPassword';
/** Codes of results (RFC 4511 Appendix A.2). */
const CODE = {
  protocol: 2,
  size: 4,
  noSuchObject: 32,
  invalidDn: 34,
  credentials: 49,
  access: 50,
  unwilling: 53,
  confidentiality: 13,
} as const;

/** What goes wrong with a directory. */
export class DirectoryError extends Error {
  constructor(
    readonly fault: DirectoryFault,
    message: string,
  ) {
    super(message);
  }
}

/** Somebody of a directory. */
export interface DirectoryPerson {
  readonly dn: string;
  /** Names of groups. */
  readonly groups: readonly string[];
}

/** A directory with the password of its account. */
export interface DirectoryAccess {
  readonly fields: DirectoryFields;
  readonly secret: string;
}

/** Asks a directory (RFC 4511). What was asked and answered is told, without passwords. */
export class DirectoryClient {
  private client: Client | null = null;
  readonly steps: DirectoryStep[] = [];

  /** @param tells whether what is asked is written down: of who tries it out. */
  constructor(
    private readonly access: DirectoryAccess,
    private readonly tells = false,
  ) {}

  /** Looks for somebody by the name they sign in as; null: there is nobody. @throws DirectoryError */
  async find(name: string): Promise<DirectoryPerson | null> {
    const { base, filter, groupAttribute, groupBase, groupFilter } = this.access.fields;
    const client = await this.opened();
    const attributes = groupAttribute === '' ? ['1.1'] : [groupAttribute];
    const found = await this.search(client, base, filterFor(filter, NAME_MARK, name), attributes, MOST_FOUND);
    const [entry] = found;
    if (!entry) return null;
    if (groupAttribute !== '') return { dn: entry.dn, groups: valuesOf(entry, groupAttribute).map(groupNameOf) };
    const wanted = filterFor(groupFilter, DN_MARK, entry.dn);
    const groups = await this.search(client, groupBase, wanted, ['1.1'], MOST_GROUPS_FOUND);
    return { dn: entry.dn, groups: groups.map(({ dn }) => groupNameOf(dn)) };
  }

  /**
   * Whether a password is somebody's: signs in as them, on a connection of its own.
   * @param password an empty one is nobody's: with it a directory takes anybody for nobody in particular (RFC 4513 §5.1.2). @throws DirectoryError
   */
  async proves(dn: string, password: string): Promise<boolean> {
    if (password === '') return false;
    const client = this.fresh();
    try {
      await this.secure(client);
      return await this.step(`Sign in as ${dn}, with the password that was given`, async () => {
        try {
          await client.bind(dn, password);
          return [true, ['It is theirs.']];
        } catch (error) {
          if (!(error instanceof InvalidCredentialsError)) throw error;
          return [false, [`It is not theirs (${textOf(error)}).`]];
        }
      });
    } finally {
      await client.unbind().catch(() => {});
    }
  }

  /** What more than the least its account may, as far as can be seen without changing anything. */
  async rights(): Promise<DirectoryRights> {
    const client = await this.opened();
    const { base } = this.access.fields;
    // Whoever finds entries by what passwords are kept as may do more with them than have one checked.
    const passwords = (await this.search(client, base, `(${PASSWORD}=*)`, ['1.1'], 1)).length > 0;
    const other = this.fresh();
    const anybody = await this.step('Search by nobody in particular', async () => {
      try {
        await this.secure(other);
        const { searchEntries } = await other.search(base, {
          scope: 'base',
          filter: '(objectClass=*)',
          attributes: ['1.1'],
        });
        const may = searchEntries.length > 0;
        return [may, [may ? 'Anybody finds entries, without an account.' : 'Nothing is told.']];
      } catch (error) {
        if (!(error instanceof ResultCodeError)) throw error;
        return [false, [`Nothing is told (${textOf(error)}).`]];
      } finally {
        await other.unbind().catch(() => {});
      }
    });
    return { passwords, anybody };
  }

  async close(): Promise<void> {
    const { client } = this;
    this.client = null;
    await client?.unbind().catch(() => {});
  }

  private fresh(): Client {
    const { host, port, security } = this.access.fields;
    const at = isIP(host) === 6 ? `[${host}]` : host;
    return new Client({
      url: `${security === 'ldaps' ? 'ldaps' : 'ldap'}://${at}:${port}`,
      ...{ timeout: PATIENCE_MS, connectTimeout: PATIENCE_MS, strictDN: false },
      ...(security === 'ldaps' ? { tlsOptions: this.tls() } : {}),
      // One that is lost is not made anew by itself: what follows would go out before it is encrypted.
      createConnection: once(connect),
    });
  }

  private tls(): ConnectionOptions {
    const { host, authority } = this.access.fields;
    return {
      ...(isIP(host) === 0 ? { servername: host } : {}),
      ...(authority.trim() === '' ? {} : { ca: authority }),
      minVersion: 'TLSv1.2',
    };
  }

  /** Has what follows encrypted, where that is said. */
  private async secure(client: Client): Promise<void> {
    if (this.access.fields.security !== 'starttls') return;
    await this.step('Begin to encrypt (StartTLS)', async () => {
      try {
        await client.startTLS(this.tls());
      } catch (error) {
        if (error instanceof ResultCodeError)
          throw new DirectoryError('unencrypted', `It does not take StartTLS: ${textOf(error)}.`);
        throw error;
      }
      return [undefined, ['It is encrypted from here on.']];
    });
  }

  private async opened(): Promise<Client> {
    if (this.client?.isConnected) return this.client;
    await this.close();
    const client = this.fresh();
    const { account, host, port } = this.access.fields;
    try {
      await this.secure(client);
      await this.step(
        account === ''
          ? `Sign in at ${host}, port ${port}, as nobody in particular`
          : `Sign in at ${host}, port ${port}, as ${account}`,
        async () => {
          try {
            await client.bind(account, account === '' ? '' : this.access.secret);
          } catch (error) {
            if (codeOf(error) === CODE.credentials || codeOf(error) === CODE.invalidDn)
              throw new DirectoryError('account', `The account is refused: ${textOf(error)}.`);
            throw error;
          }
          return [undefined, ['It is taken.']];
        },
      );
    } catch (error) {
      await client.unbind().catch(() => {});
      throw error;
    }
    this.client = client;
    return client;
  }

  private search(client: Client, base: string, filter: string, attributes: string[], most: number): Promise<Entry[]> {
    return this.step(
      `Search below ${base}: ${filter}${attributes[0] === '1.1' ? '' : `, for ${attributes.join(', ')}`}`,
      async () => {
        let parsed;
        try {
          parsed = FilterParser.parseString(filter);
        } catch (error) {
          throw new DirectoryError('filter', `The filter cannot be read: ${textOf(error)}.`);
        }
        // Whoever says how many it wants is told so many, and not that there are more: of groups all are wanted.
        const sizeLimit = most === MOST_GROUPS_FOUND ? 0 : most;
        const timeLimit = Math.ceil(PATIENCE_MS / 1000);
        const { searchEntries } = await client.search(base, {
          scope: 'sub',
          filter: parsed,
          attributes,
          sizeLimit,
          timeLimit,
        });
        if (searchEntries.length > most) throw new DirectoryError('size', `More than ${most} are found.`);
        if (most === MOST_FOUND && searchEntries.length > 1)
          throw new DirectoryError(
            'several',
            `More than one entry fits the name: ${searchEntries.map(({ dn }) => dn).join('; ')}.`,
          );
        return [searchEntries, saidOf(searchEntries)];
      },
    );
  }

  /** Does one thing, and tells what it was and what came of it. @throws DirectoryError */
  private async step<T>(asked: string, act: () => Promise<readonly [T, readonly string[]]>): Promise<T> {
    const began = performance.now();
    const tell = (said: readonly string[], ok: boolean): void => {
      if (this.tells)
        this.steps.push({ asked: asked.slice(0, MOST_LINE * 4), said, ok, ms: Math.round(performance.now() - began) });
    };
    try {
      const [value, said] = await act();
      tell(said, true);
      return value;
    } catch (error) {
      const told = error instanceof DirectoryError ? error : faultOf(error);
      tell([told.message], false);
      throw told;
    }
  }
}

/** A connection, made once. */
function once(make: typeof connect): typeof connect {
  let made = false;
  return ((...args: Parameters<typeof connect>) => {
    if (made) throw new Error('The connection was lost.');
    made = true;
    return make(...args);
  }) as typeof connect;
}

const codeOf = (error: unknown): number | null => (error instanceof ResultCodeError ? error.code : null);
const textOf = (error: unknown): string =>
  (error instanceof Error ? error.message : String(error))
    .replace(/\s*Code: 0x[0-9a-f]+\s*$/i, '')
    .trim()
    .slice(0, MOST_LINE) || 'it says nothing more';

/** What an error of the network, of TLS or of the directory means. */
function faultOf(error: unknown): DirectoryError {
  const { code = '' } = error as { code?: string | number };
  const text = textOf(error);
  const of = (fault: DirectoryFault, words: string): DirectoryError => new DirectoryError(fault, words);
  if (error instanceof ResultCodeError) {
    if (error.code === CODE.credentials) return of('account', `The account is refused: ${text}.`);
    if (error.code === CODE.noSuchObject || error.code === CODE.invalidDn)
      return of('base', `There is no such entry: ${text}.`);
    if (error.code === CODE.access) return of('rights', `The account may not do that: ${text}.`);
    if (error.code === CODE.size) return of('size', 'More is found than it tells.');
    if (error.code === CODE.confidentiality) return of('unencrypted', `It wants to be asked under TLS alone: ${text}.`);
    if (error.code === CODE.protocol || error.code === CODE.unwilling)
      return of('other', `It does not do that: ${text}.`);
    return of('other', `It says: ${text}.`);
  }
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return of('unresolved', 'Nobody knows a host of that name.');
  if (['ECONNREFUSED', 'EHOSTUNREACH', 'ENETUNREACH', 'EADDRNOTAVAIL'].includes(String(code)))
    return of('unreachable', `Nobody answers at that port (${code}).`);
  if (/CERT|SIGNATURE|SELF_SIGNED|ALTNAME|ISSUER|HOSTNAME/.test(String(code)) || /certificate|altnames/i.test(text))
    return of('untrusted', `Its certificate is not believed: ${text}.`);
  if (/SSL|TLS|EPROTO/i.test(`${code} ${text}`)) return of('unencrypted', `It does not do TLS there: ${text}.`);
  if (code === 'ETIMEDOUT' || /timeout|timed out/i.test(text))
    return of('silent', `It says nothing within ${PATIENCE_MS / 1000} s.`);
  return of('unreachable', `The connection ends: ${text}.`);
}

/** Values of an attribute, whatever case it is written in. */
function valuesOf(entry: Entry, attribute: string): string[] {
  const key = Object.keys(entry).find((each) => each.toLowerCase() === attribute.toLowerCase());
  const value = key === undefined ? [] : entry[key]!;
  return [value]
    .flat()
    .slice(0, MOST_GROUPS_FOUND)
    .map((each) => (typeof each === 'string' ? each : each.toString('utf8')));
}

/** Entries as they are told; of passwords that they are there alone. */
function saidOf(entries: readonly Entry[]): string[] {
  if (entries.length === 0) return ['Nothing is found.'];
  const lines = entries.flatMap((entry) => [
    entry.dn,
    ...Object.keys(entry)
      .filter((key) => key !== 'dn')
      .flatMap((key) =>
        valuesOf(entry, key).map(
          (value) => `  ${key}: ${key.toLowerCase() === PASSWORD.toLowerCase() ? '(is told)' : value}`,
        ),
      ),
  ]);
  const more = lines.length - MOST_LINES;
  return [
    ...lines.slice(0, MOST_LINES).map((line) => line.slice(0, MOST_LINE)),
    ...(more > 0 ? [`and ${more} lines more`] : []),
  ];
}
