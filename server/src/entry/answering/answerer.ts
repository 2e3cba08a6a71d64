import { randomBytes, X509Certificate } from 'node:crypto';
import type { SecureContext } from 'node:tls';
import { formatMac, parseMac } from '@iron-lattice/core/address';
import { classOfGroups, macOfName, userKey } from '@iron-lattice/core/entry';
import {
  attributeOf,
  CALLED_STATION,
  CALLING_STATION,
  FILTER_ID,
  isAuthentic,
  NOT_KEPT,
  octetsOfText,
  proofOf,
  readPacket,
  Responder,
  textAttribute,
  textOfOctets,
  type Handled,
  type KnownUser,
  type Packet,
  type TlsServerMethod,
} from '@iron-lattice/core/radius';
import { localMoment } from '@iron-lattice/core/rules';
import type { Proof, ProofAsked } from '../../roster/user-offer';
import type { Asking, AskingWay, FromThread, KnownEntry, ToThread } from './answering.contract';
import { contextOf, ServerTls } from './node-tls';
import { DirectoryDesk } from '../directory/directory-desk';
import { PasswordMemory } from './password-memory';

/** For how long it holds what a device of ours is, or that an address is none of ours, and how soon it may be asked again, in milliseconds. */
const HOLDS_MS = { ours: 60_000, nobody: 10_000, again: 25 } as const;
/** Devices that are remembered, and that are being asked for: in all, and for one sender. */
const [MOST_KNOWN, MOST_ASKED, MOST_ASKED_FOR_ONE] = [20_000, 256, 16];
/** How long who asks is waited for, in milliseconds. */
const PATIENCE_MS = 2000;
const ACCOUNTING_REQUEST = 4;
const GUESSED = 'too many wrong passwords came; none is looked at for five minutes';

interface Held {
  readonly asking: Asking | null;
  readonly at: number;
}

/** How a device of ours asks in a packet. */
interface Way extends AskingWay {
  readonly mac: string;
  readonly asking: Asking;
}

/** The controller's own RADIUS server without its sockets: it answers devices of ours for users that are kept here. */
export class Answerer {
  private readonly users = new Map<string, KnownEntry>();
  private readonly keys = new Map<string, string>();
  private readonly held = new Map<string, Held>();
  private readonly asked = new Map<string, { readonly found: Promise<Held>; readonly tell: (held: Held) => void }>();
  private readonly askedBy = new Map<string, number>();
  private readonly ways = new WeakMap<Packet, Way>();
  /** What it shows by TLS; null: it has no certificate yet. */
  private shown: { readonly context: SecureContext; readonly authority: X509Certificate } | null = null;
  private readonly passwords: PasswordMemory;
  private readonly directory: DirectoryDesk;
  private readonly responder: Responder;

  constructor(
    private readonly say: (message: FromThread) => void,
    private readonly now: () => number = Date.now,
  ) {
    this.passwords = new PasswordMemory(now);
    this.directory = new DirectoryDesk(now);
    const shown = () => this.shown;
    this.responder = new Responder({
      methods: ['ttls', 'tls'],
      // Before there is a certificate no method by TLS is offered.
      get engine() {
        const now = shown();
        return (
          now && ((method: TlsServerMethod) => new ServerTls(now.context, method === 'tls' ? now.authority : null))
        );
      },
      secretOf: (_address, packet) => this.secretOf(packet),
      find: (name, request) => this.find(name, request),
      unknown: NOT_KEPT,
      explains: (request) => this.ways.get(request)?.trial ?? false,
      random: (octets) => new Uint8Array(randomBytes(octets)),
      now,
    });
  }

  /** What the controller says: users that changed, who a device is. */
  hear(message: Exclude<ToThread, { type: 'end' }>): void {
    switch (message.type) {
      case 'users': {
        if (message.all) {
          this.users.clear();
          this.keys.clear();
        }
        for (const id of [...message.gone, ...message.users.map((user) => user.id)]) {
          const before = this.keys.get(id);
          if (before !== undefined && this.users.get(before)?.id === id) this.users.delete(before);
          this.keys.delete(id);
        }
        for (const user of message.users) {
          this.users.set(user.key, user);
          this.keys.set(user.id, user.key);
        }
        return;
      }
      case 'asking': {
        const held = { asking: message.asking, at: this.now() };
        this.held.delete(message.mac);
        if (this.held.size >= MOST_KNOWN) this.held.delete(this.held.keys().next().value!);
        this.held.set(message.mac, held);
        this.asked.get(message.mac)?.tell(held);
        return;
      }
      case 'certificate':
        this.shown = {
          context: contextOf(message.cert, message.key, message.authority),
          authority: new X509Certificate(message.authority),
        };
        return;
      case 'directory':
        return this.directory.put(message.access);
      case 'prove':
        void this.prove(message).then((proof) => this.say({ type: 'proved', id: message.id, proof }));
        return;
      case 'forget':
        return this.held.clear();
    }
  }

  /** What goes back for octets that came from an address and port; null: nothing. */
  async answer(bytes: Uint8Array, from: { readonly address: string; readonly port: number }): Promise<Handled | null> {
    const read = readPacket(bytes);
    if (!read.ok) return null;
    const mac = calledIn(read.packet);
    if (mac === null) return null;
    let held = await this.who(mac, from.address, 0);
    // A device may have been told another secret since it was looked at.
    if (held?.asking && !wayIn(read.packet, held.asking) && held.at + HOLDS_MS.again < this.now())
      held = await this.who(mac, from.address, HOLDS_MS.again);
    if (!held?.asking) return null;
    const handled = await this.responder.handle(bytes, from);
    this.note(handled);
    return handled;
  }

  /** Whether somebody is who they say they are, asked by the controller itself. */
  private async prove({ name, password, mac, deviceId, timeZone }: ProofAsked): Promise<Proof> {
    const key = userKey(name);
    const user = this.users.get(key);
    const octets = octetsOfText(password);
    if (!user) return macOfName(key) === null ? this.proveThere(name, password, mac) : 'wrong';
    if (user.hash === null) return 'wrong';
    const judged = await this.passwords.judge({ id: user.id, hash: user.hash }, octets, deviceId, mac);
    if (judged === 'guessed') return 'guessed';
    if (judged === 'busy') return 'later';
    if (!judged) return 'wrong';
    if (this.barred(user, { timeZone, trial: false }, mac) !== null) return 'barred';
    this.say({ type: 'came', userId: user.id, mac, deviceId });
    return 'right';
  }

  /** The same of somebody whom the directory may know. */
  private async proveThere(name: string, password: string, mac: string): Promise<Proof> {
    if (!this.directory.open) return 'wrong';
    const person = await this.directory.find(name).catch(() => undefined);
    if (person === undefined) return 'later';
    if (person === null) return 'wrong';
    const of = { id: `directory ${person.dn}`, mac };
    if (this.passwords.isGuessed(of)) return 'guessed';
    const right = await this.directory.proves(person, password);
    if (right === false) this.passwords.countWrong(of);
    return right === null ? 'later' : right ? 'right' : 'wrong';
  }

  /** Who is let in is told, and who is turned away though they are kept here; who tries it out, or asks for itself, is nobody’s device. */
  private note({ request, answer, words, known }: Handled): void {
    const way = request && this.ways.get(request);
    if (!way || way.trial || known?.id === undefined || (answer?.code !== 2 && answer?.code !== 3)) return;
    const calling = callingIn(request);
    const mac = calling === way.mac ? null : calling;
    const of = { userId: known.id, mac, deviceId: way.asking.deviceId };
    this.say(
      answer.code === 2
        ? { type: 'came', ...of, mac: this.isDevice(known.id) ? null : mac }
        : { type: 'refused', ...of, why: words },
    );
  }

  private isDevice = (id: string): boolean => this.users.get(this.keys.get(id) ?? '')?.hash === null;

  /** The device of ours with an address: as it is remembered, or asked for. @param fresh how old it may be at most, 0: as long as it holds. */
  private who(mac: string, from: string, fresh: number): Promise<Held> | Held | null {
    const held = this.held.get(mac);
    const holds = fresh || (held?.asking ? HOLDS_MS.ours : HOLDS_MS.nobody);
    if (held && held.at + holds > this.now()) return held;
    const before = this.asked.get(mac);
    if (before) return before.found;
    const mine = this.askedBy.get(from) ?? 0;
    if (this.asked.size >= MOST_ASKED || mine >= MOST_ASKED_FOR_ONE) return null;
    this.askedBy.set(from, mine + 1);
    let tell!: (held: Held) => void;
    const found = new Promise<Held>((resolve) => {
      const late = setTimeout(() => tell({ asking: null, at: 0 }), PATIENCE_MS);
      tell = (answer) => {
        clearTimeout(late);
        this.asked.delete(mac);
        const left = this.askedBy.get(from)! - 1;
        if (left > 0) this.askedBy.set(from, left);
        else this.askedBy.delete(from);
        resolve(answer);
      };
    });
    this.asked.set(mac, { found, tell });
    this.say({ type: 'who', mac });
    return found;
  }

  /** The secret by which a packet is proven; that of the first way where it is by none, so that it is judged at all. */
  private secretOf(packet: Packet): Uint8Array | null {
    const mac = calledIn(packet);
    const asking = mac === null ? null : this.held.get(mac)?.asking;
    if (!asking || asking.ways.length === 0) return null;
    const way = wayIn(packet, asking);
    if (way) this.ways.set(packet, { ...way, mac: mac!, asking });
    return octetsOfText((way ?? asking.ways[0]!).secret);
  }

  private find(name: string, request: Packet): KnownUser | null | Promise<KnownUser | null> {
    const way = this.ways.get(request);
    if (!way) return null;
    const key = userKey(name);
    const user = this.users.get(key) ?? null;
    const mac = callingIn(request) ?? '';
    if (user && user.hash === null) {
      const fits = (password: Uint8Array): boolean => macOfName(textOfOctets(password)) === key;
      return {
        id: user.id,
        password: octetsOfText(name),
        fits,
        barred: () => this.barred(user, placeOf(way), null),
        ...this.answers(user, way),
      };
    }
    if (!user) return this.directory.open && macOfName(key) === null ? this.ofDirectory(name, way, mac) : null;
    const fits = async (password: Uint8Array): Promise<boolean | null | string> => {
      const judged = await this.passwords.judge({ id: user.id, hash: user.hash! }, password, way.asking.deviceId, mac);
      if (judged === 'guessed') return GUESSED;
      return judged === 'busy' ? null : judged;
    };
    return {
      id: user.id,
      password: null,
      fits,
      barred: () => this.barred(user, placeOf(way), mac === way.mac ? null : mac),
      ...this.answers(user, way),
    };
  }

  /** Somebody whom the directory knows: signed in there to see whether a password is theirs. */
  private async ofDirectory(name: string, way: Way, mac: string): Promise<KnownUser | null> {
    const nobody = { password: null, attributes: [] };
    const person = await this.directory.find(name).catch(() => undefined);
    if (person === null) return null;
    // While it cannot be said, nobody is answered, and another server is asked.
    if (person === undefined) return { ...nobody, fits: () => null };
    const of = { id: `directory ${person.dn}`, mac };
    const fits = async (password: Uint8Array): Promise<boolean | null | string> => {
      if (this.passwords.isGuessed(of)) return GUESSED;
      const right = await this.directory.proves(person, Buffer.from(password).toString('utf8'));
      if (right === false) this.passwords.countWrong(of);
      return right;
    };
    const certified = (): string => 'certificates are taken of those alone who are kept here';
    return { ...nobody, ...this.answers({ groups: person.groups, certificates: [] }, way), fits, certified };
  }

  private answers(
    { groups, certificates }: Pick<KnownEntry, 'groups' | 'certificates'>,
    { classes }: AskingWay,
  ): Pick<KnownUser, 'attributes' | 'certified'> {
    const found = classOfGroups(groups, classes);
    const certified = (sha256: string) => (certificates.includes(sha256) ? null : 'its certificate was taken back');
    return { certified, attributes: found === null ? [] : [textAttribute(FILTER_ID, found)] };
  }

  /** Why a user is not let in, as they are by now. @param mac address that they come with; null: of no device that counts. */
  private barred(
    { id, key }: KnownEntry,
    { timeZone, trial }: { readonly timeZone: string; readonly trial: boolean },
    mac: string | null,
  ): string | null {
    const now = this.users.get(key);
    if (now?.id !== id) return 'the user is kept no more';
    const { off, until, most, macs } = now;
    if (off) return 'the user is switched off';
    const today = localMoment(this.now(), timeZone).slice(0, 10);
    if (until !== null && today > until) return `the user’s time was over on ${until}`;
    if (most === null || mac === null || macs.includes(mac)) return null;
    if (mac === '') return 'it does not say which device the user comes with, and the user has a number of them';
    if (macs.length >= most)
      return `the user came with ${macs.length} other devices, which are as many as they may have`;
    // It is one of theirs from now on, before it is written down.
    if (!trial) this.users.set(key, { ...now, macs: [...macs, mac] });
    return null;
  }
}

const placeOf = ({ asking, trial }: Way) => ({ timeZone: asking.timeZone, trial });

/** The address of the device of ours that asks, as a request says it (RFC 3580 §3.20). */
const calledIn = (packet: Packet): string | null => stationIn(packet, CALLED_STATION);
/** The address of the client that is asked for (RFC 3580 §3.21). */
const callingIn = (packet: Packet): string | null => stationIn(packet, CALLING_STATION);

function stationIn(packet: Packet, type: number): string | null {
  const value = attributeOf(packet, type);
  const mac = value && value.length >= 12 ? parseMac(textOfOctets(value.slice(0, 17))) : null;
  return mac === null ? null : formatMac(mac);
}

/** The way by whose secret a packet is proven. */
function wayIn(packet: Packet, { ways }: Asking): AskingWay | undefined {
  return ways.find(({ secret }) => {
    const octets = octetsOfText(secret);
    return packet.code === ACCOUNTING_REQUEST
      ? isAuthentic(packet, new Uint8Array(16), octets)
      : proofOf(packet, packet.authenticator, octets) === 'right';
  });
}
