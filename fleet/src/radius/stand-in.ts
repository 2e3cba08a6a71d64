import { randomBytes } from 'node:crypto';
import type { Socket } from 'node:dgram';
import { formatMac, parseMac } from '@iron-lattice/core/address';
import {
  CLASS,
  octetsOfText,
  numberAttribute,
  PROOF,
  Responder,
  saidAttributes,
  sameOctets,
  sealResponse,
  textAttribute,
  tunnelPassword,
  vlanAttributes,
  type Attribute,
  type Handled,
  type KnownUser,
} from '@iron-lattice/core/radius';
import { des } from './des';
import { NodeTls } from './node-tls';
import type { Certified } from '../ldap/certified';
import { MadeUpAuthority } from './stand-in-certificates';
import { openUdp } from './udp';
import type { DirectoryAnswer, DirectoryFile, DirectoryServer } from './directory-file';

/** Ways in which a server can misbehave; null: it does not. */
export const MOODS = ['silent', 'slow', 'late', 'wrong-secret', 'reject-all', 'unknown-class'] as const;
export type Mood = (typeof MOODS)[number];

/** How long it takes where it is slow, and where it answers when nobody waits any more. */
const SLOW_MS = { slow: 1500, late: 20_000 } as const;
/** Requests that are remembered, to be looked at. */
const MOST_SEEN = 100;
const NOBODYS_CLASS = 'Nobody’s class';

/** A request as the stand-in tells of it: nothing secret. */
export interface SeenRequest {
  readonly at: string;
  readonly from: string;
  readonly user: string | null;
  readonly words: string;
  readonly attributes: readonly { readonly name: string; readonly value: string }[];
}

/** A RADIUS server of the made-up world: real packets over UDP on loopback, users from a file. */
export class StandIn {
  private readonly sockets: Socket[] = [];
  private readonly responder: Responder;
  private readonly timers = new Set<NodeJS.Timeout>();
  readonly seen: SeenRequest[] = [];
  mood: Mood | null = null;
  /** Ports on loopback at which it really listens; 0 before it does. */
  readonly ports = { auth: 0, accounting: 0 };

  constructor(
    readonly server: DirectoryServer,
    private readonly directory: DirectoryFile,
  ) {
    const secret = octetsOfText(server.secret);
    this.responder = new Responder({
      methods: ['md5', 'ttls', 'peap', 'tls'],
      engine: () => new NodeTls({ isServer: true, authority: this.authority!.pem, ...this.certified! }),
      des,
      secretOf: () => secret,
      find: (name, { authenticator }) => this.find(name, { secret, authenticator }),
      random: (octets) => new Uint8Array(randomBytes(octets)),
      now: () => Date.now(),
    });
  }

  /** Whoever made its certificate, and those of users that it believes; null before it listens. */
  authority: MadeUpAuthority | null = null;
  private certified: Certified | null = null;

  /** Begins to listen. @param base the first of two ports; 0, or where they are taken: any. @param authority absent: one of its own. */
  async listen(base: number, authority?: MadeUpAuthority): Promise<void> {
    this.authority = authority ?? (await MadeUpAuthority.make('Made-up authority'));
    this.certified = await this.authority.issue(this.server.name, 'server');
    this.ports.auth = await this.open(base);
    this.ports.accounting = await this.open(base === 0 ? 0 : base + 1);
  }

  close(): void {
    for (const timer of this.timers) clearTimeout(timer);
    for (const socket of this.sockets.splice(0)) socket.close();
  }

  private async open(port: number): Promise<number> {
    const socket = await openUdp(port);
    this.sockets.push(socket);
    socket.on('message', (bytes, { address, port: from }) => void this.came(socket, bytes, { address, port: from }));
    return socket.address().port;
  }

  private async came(socket: Socket, bytes: Buffer, from: { address: string; port: number }): Promise<void> {
    const handled = await this.responder.handle(new Uint8Array(bytes), from);
    const { mood } = this;
    this.seen.push({
      at: new Date().toISOString(),
      from: `${from.address}:${from.port}`,
      user: handled.user,
      words: mood === null ? handled.words : `${handled.words} (${mood})`,
      attributes: handled.request ? saidAttributes(handled.request.attributes) : [],
    });
    if (this.seen.length > MOST_SEEN) this.seen.shift();
    const answer = this.inMood(handled);
    if (!answer) return;
    const wait = mood === 'slow' || mood === 'late' ? SLOW_MS[mood] : 0;
    const send = (): void => {
      if (this.sockets.includes(socket)) socket.send(answer, from.port, from.address);
    };
    if (wait === 0) return send();
    const timer = setTimeout(() => {
      this.timers.delete(timer);
      send();
    }, wait);
    this.timers.add(timer);
  }

  /** What goes back, as it misbehaves now. */
  private inMood({ bytes, request, answer }: Handled): Uint8Array | null {
    if (this.mood === 'silent') return null;
    if (!bytes || !request || !answer || answer.code === 5) return bytes;
    const secret = octetsOfText(this.mood === 'wrong-secret' ? `not ${this.server.secret}` : this.server.secret);
    const sealed = (code: 2 | 3 | 11, attributes: readonly Attribute[]): Uint8Array =>
      sealResponse({ code, id: request.id, attributes: [PROOF, ...attributes] }, request.authenticator, secret).bytes;
    switch (this.mood) {
      case 'wrong-secret':
        return sealed(answer.code as 2, answer.attributes);
      case 'reject-all':
        return sealed(3, [textAttribute(18, 'Nobody is let in today')]);
      case 'unknown-class':
        return answer.code === 2
          ? sealed(2, [...answer.attributes.filter(({ type }) => type === 79), textAttribute(11, NOBODYS_CLASS)])
          : bytes;
      case 'slow':
      case 'late':
      case null:
        return bytes;
    }
  }

  private find(name: string, behind: Behind): KnownUser | null {
    const { users, macs, groups } = this.directory;
    const answered = (own: DirectoryAnswer & { readonly group?: string }): Attribute[] =>
      attributesOf({ ...(own.group === undefined ? {} : groups[own.group]), ...own }, behind);
    if (Object.hasOwn(users, name)) {
      const user = users[name]!;
      const password = octetsOfText(user.password);
      return { password, fits: (given) => sameOctets(given, password), attributes: answered(user) };
    }
    const mac = parseMac(name);
    const known = mac === null ? undefined : macs[formatMac(mac)];
    if (!known) return null;
    const password = octetsOfText(name);
    return { password, fits: (given) => sameOctets(given, password), attributes: answered(known) };
  }
}

/** What keys are hidden behind. */
interface Behind {
  readonly secret: Uint8Array;
  readonly authenticator: Uint8Array;
}

const attributesOf = (
  { filterId, vlan, session, idle, class: back, keys = [] }: DirectoryAnswer,
  behind: Behind,
): Attribute[] => [
  ...keys.flatMap(({ key, vlan: leads }, i) => keyAttributes(key, leads, i + 1, behind)),
  ...(filterId === undefined ? [] : [textAttribute(11, filterId)]),
  ...(vlan === undefined ? [] : vlanAttributes(vlan)),
  ...(back === undefined ? [] : [textAttribute(CLASS, back)]),
  ...(session === undefined ? [] : [numberAttribute(27, session)]),
  ...(idle === undefined ? [] : [numberAttribute(28, idle)]),
];

/** A key of a ring, and the VLAN of its tag. */
function keyAttributes(key: string, vlan: string | undefined, tag: number, behind: Behind): Attribute[] {
  // Salts of one packet are never alike (RFC 2868 §3.5).
  const salt = Uint8Array.of(tag, randomBytes(1)[0]!);
  return [
    ...(vlan === undefined ? [] : vlanAttributes(vlan, tag)),
    tunnelPassword(key, tag, behind.secret, behind.authenticator, salt),
  ];
}
