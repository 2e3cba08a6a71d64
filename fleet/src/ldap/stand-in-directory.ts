import { createServer, type Server, type Socket } from 'node:net';
import { createSecureContext, createServer as createTlsServer, TLSSocket, type SecureContext } from 'node:tls';
import type { Certified } from './certified';
import { element, elementsOf, numberIn, sizeOf, textIn, type Element } from './ber';
import { entriesOf, type LdapEntry, type LdapFile } from './directory-entries';
import { dnKey, isLike, readFilter } from './filter';

/** How it misbehaves. */
export const LDAP_MOODS = ['silent', 'busy', 'no-tls'] as const;
export type LdapMood = (typeof LDAP_MOODS)[number];

/** Octets of one message. */
const MOST_OCTETS = 65_536;
/** Tags of what is asked and answered (RFC 4511 §4). */
const ASKED = { bind: 0x60, unbind: 0x42, search: 0x63, extended: 0x77 } as const;
const ANSWER: Readonly<Record<number, number>> = { 0x60: 0x61, 0x63: 0x65, 0x77: 0x78 };
const ENTRY = 0x64;
const RESULT = {
  success: 0,
  protocol: 2,
  size: 4,
  noSuchObject: 32,
  credentials: 49,
  rights: 50,
  busy: 51,
  unwilling: 53,
} as const;
const STARTTLS = '1.3.6.1.4.1.1466.20037';
const PASSWORD = 'userPassword';

/** Who is signed in on a connection: nobody in particular, somebody, or a program’s account. */
interface Asker {
  readonly kind: 'nobody' | 'person' | 'account';
  readonly passwords: boolean;
}
const NOBODY: Asker = { kind: 'nobody', passwords: false };

/** A directory of the made-up world (LDAP, RFC 4511): it signs people in, and lets accounts search. */
export class StandInDirectory {
  mood: LdapMood | null = null;
  readonly ports = { ldap: 0, ldaps: 0 };
  private readonly entries: readonly LdapEntry[];
  private readonly servers: Server[] = [];
  private readonly sockets = new Set<Socket>();
  private context: SecureContext | null = null;

  constructor(readonly file: LdapFile) {
    this.entries = entriesOf(file);
  }

  /** @param base the first of two ports, of which the second encrypts from the first octet on; 0: any. @param certified what it shows. */
  async listen(base: number, certified: Certified): Promise<void> {
    this.context = createSecureContext(certified);
    const plain = createServer((socket) => this.serve(socket));
    const secure = createTlsServer({ ...certified, minVersion: 'TLSv1.2' }, (socket) => this.serve(socket));
    this.servers.push(plain, secure);
    for (const [server, key, port] of [
      [plain, 'ldap', base],
      [secure, 'ldaps', base === 0 ? 0 : base + 1],
    ] as const) {
      await new Promise<void>((resolve, reject) => {
        server.once('error', reject);
        server.listen(port, '127.0.0.1', resolve);
      });
      this.ports[key] = (server.address() as { port: number }).port;
    }
  }

  close(): void {
    for (const server of this.servers) server.close();
    for (const socket of this.sockets) socket.destroy();
  }

  private serve(socket: Socket): void {
    this.sockets.add(socket);
    socket.on('error', () => {});
    socket.on('close', () => this.sockets.delete(socket));
    let asker = NOBODY;
    let waiting = Buffer.alloc(0);
    const take = (chunk: Buffer): void => {
      waiting = Buffer.concat([waiting, chunk]);
      for (;;) {
        const size = sizeOf(waiting);
        if (size === null) return;
        if (size > MOST_OCTETS) return void socket.destroy();
        if (waiting.length < size) return;
        const message = waiting.subarray(0, size);
        waiting = waiting.subarray(size);
        if (this.mood === 'silent') continue;
        const done = this.answer(message, asker);
        if (done === null) return void socket.end();
        for (const each of done.out) socket.write(each);
        asker = done.asker;
        if (done.secure) {
          socket.off('data', take);
          const secured = new TLSSocket(socket, { isServer: true, secureContext: this.context! });
          return this.serve(secured);
        }
      }
    };
    socket.on('data', take);
  }

  /** What goes back for one message; null: the connection ends. */
  private answer(message: Buffer, asker: Asker): { out: Buffer[]; asker: Asker; secure?: true } | null {
    let id = 0;
    let op = 0;
    try {
      const [number, asked] = elementsOf(elementsOf(message)[0]!.value);
      if (!number || !asked) return null;
      [id, op] = [numberIn(number), asked.tag];
      const result = (code: number, text = ''): Buffer => resultOf(id, ANSWER[op] ?? ANSWER[ASKED.search]!, code, text);
      if (op === ASKED.unbind) return null;
      if (this.mood === 'busy') return { out: [result(RESULT.busy, 'come again later')], asker };
      const parts = elementsOf(asked.value);
      if (op === ASKED.bind) {
        const found = parts[2]?.tag === 0x80 ? this.signIn(textIn(parts[1]!), textIn(parts[2])) : null;
        return { out: [result(found ? RESULT.success : RESULT.credentials)], asker: found ?? NOBODY };
      }
      if (op === ASKED.extended) {
        if (!parts[0] || textIn(parts[0]) !== STARTTLS || this.mood === 'no-tls')
          return { out: [result(RESULT.protocol, 'that is not done here')], asker };
        return { out: [result(RESULT.success)], asker, secure: true };
      }
      if (op === ASKED.search) return { out: this.search(parts, id, asker, result), asker };
      return { out: [result(RESULT.unwilling, 'that is not done here')], asker };
    } catch {
      return ANSWER[op] === undefined
        ? null
        : { out: [resultOf(id, ANSWER[op]!, RESULT.protocol, 'it cannot be read')], asker };
    }
  }

  private signIn(dn: string, password: string): Asker | null {
    if (dn === '') return NOBODY;
    const key = dnKey(dn);
    // Without a password one is nobody in particular (RFC 4513 §5.1.2), and not whom one names.
    if (password === '') return NOBODY;
    const account = Object.entries(this.file.accounts).find(([each]) => dnKey(each) === key)?.[1];
    if (account)
      return account.password === password ? { kind: 'account', passwords: account.rights === 'passwords' } : null;
    const person = this.entries.find((each) => dnKey(each.dn) === key);
    return person?.attributes[PASSWORD]?.[0] === password ? { kind: 'person', passwords: false } : null;
  }

  private search(
    parts: readonly Element[],
    id: number,
    asker: Asker,
    result: (code: number, text?: string) => Buffer,
  ): Buffer[] {
    const [named, how, , limit, , , like, told] = parts;
    if (!named || !how || !limit || !like || !told) return [result(RESULT.protocol, 'it cannot be read')];
    const [base, scope, most] = [dnKey(textIn(named)), numberIn(how), numberIn(limit)];
    const filter = readFilter(like);
    const wanted = elementsOf(told.value).map((each) => textIn(each).toLowerCase());
    if (asker.kind !== 'account' && this.file.anybody !== true)
      return [result(RESULT.rights, 'sign in as an account that may search')];
    if (!this.entries.some(({ dn }) => dnKey(dn) === base)) return [result(RESULT.noSuchObject)];
    const may = (attribute: string): boolean => attribute !== PASSWORD || asker.passwords;
    const below = this.entries.filter(({ dn }) => {
      const key = dnKey(dn);
      if (key === base) return scope !== 1;
      if (scope === 0 || !key.endsWith(`,${base}`)) return false;
      return scope === 2 || key.slice(0, -base.length - 1).split(/(?<!\\),/).length === 1;
    });
    const found = below.filter(({ attributes }) =>
      isLike(filter, (attribute) => {
        const key = Object.keys(attributes).find((each) => each.toLowerCase() === attribute.toLowerCase());
        return key !== undefined && may(key) ? attributes[key]! : [];
      }),
    );
    const shown = most > 0 ? found.slice(0, most) : found;
    return [
      ...shown.map((entry) => entryOf(id, entry, wanted, may)),
      result(shown.length < found.length ? RESULT.size : RESULT.success),
    ];
  }
}

function resultOf(id: number, tag: number, code: number, text: string): Buffer {
  const result = element(tag, [element(0x0a, code), element(0x04, ''), element(0x04, text)]);
  return element(0x30, [element(0x02, id), result]);
}

function entryOf(
  id: number,
  { dn, attributes }: LdapEntry,
  wanted: readonly string[],
  may: (attribute: string) => boolean,
): Buffer {
  const all = wanted.length === 0 || wanted.includes('*');
  const told = Object.entries(attributes)
    .filter(([name]) => may(name) && (all || wanted.includes(name.toLowerCase())))
    .map(([name, values]) =>
      element(0x30, [
        element(0x04, name),
        element(
          0x31,
          values.map((value) => element(0x04, value)),
        ),
      ]),
    );
  return element(0x30, [element(0x02, id), element(ENTRY, [element(0x04, dn), element(0x30, told)])]);
}
