import { randomBytes } from 'node:crypto';
import { createSocket } from 'node:dgram';
import { isSameKey } from '../world/rings';
import { keyKind } from '@iron-lattice/core/wireless';
import { des } from './des';
import { NodeTls } from './node-tls';
import type { Certified } from '../ldap/certified';
import {
  attributeOf,
  callAttributes,
  EapAsker,
  isTlsMethod,
  keyMaterialIn,
  TlsPeer,
  CODES,
  FILTER_ID,
  firstProof,
  MOST_TOLD,
  NOT_KEPT,
  octetsOfText,
  PROOF,
  readAnswer,
  readPacket,
  REPLY_MESSAGE,
  saidAttributes,
  sealAccess,
  SESSION_TIMEOUT,
  textOfOctets,
  CLASS,
  MOST_ECHOED,
  MOST_NAMED_KEYS,
  ringKeysIn,
  vlanOf,
  vlanText,
  type AskedFor,
  type AskedServer,
  type Asker,
  type Attribute,
  type End,
  type Exchange,
  type NamedKey,
  type Packet,
  type SaidPacket,
} from '@iron-lattice/core/radius';

/** What goes onto the wire, with its proof. */
const attributesOf = (bytes: Uint8Array): readonly Attribute[] => {
  const read = readPacket(bytes);
  return read.ok ? read.packet.attributes : [];
};

/** Most challenges that one conversation goes through. */
const MOST_STEPS = 60;

/** The client’s side of methods that begin with TLS. */
function peerOf(
  { authority, certificateName }: AskedServer,
  { method, user, password }: AskedFor,
  own?: Certified,
): TlsPeer | null {
  const kind = method.replace('eap-', '');
  if (!isTlsMethod(kind)) return null;
  const engine = new NodeTls({ isServer: false, authority, name: certificateName, ...own });
  return new TlsPeer(kind, engine, {
    name: user,
    password,
    random: (octets) => new Uint8Array(randomBytes(octets)),
    des,
  });
}

/** By how much a clock has to ring late for it to mean that this process was held up, in milliseconds. */
const HELD_UP_MS = 100;

/** Where a server really listens on this machine. */
export interface RealPlace {
  readonly host: string;
  readonly port: number;
}

const NOTHING = { filterIds: [], vlan: { kind: 'none', text: '' }, sessionSeconds: null } as const;

/** An exchange that never began. */
export const notAsked = (end: End, why: string, address: string | null): Exchange => ({
  ...NOTHING,
  ...{ end, why, address, packets: [], sent: 0, ms: 0 },
});

/**
 * Asks a RADIUS server for somebody, as a device does: real packets over UDP, sent again with the same identifier and authenticator until
 * somebody answers (RFC 5080 §2.2.1). An answer that our secret does not prove is none; that one came is told when nothing better does.
 * @param address of the server, as it is told. @param own certificate of whoever is asked for, where it proves itself by one.
 */
export async function askServer(
  server: AskedServer,
  asked: AskedFor,
  by: Asker,
  address: string,
  place: RealPlace,
  own?: Certified,
): Promise<Exchange> {
  const secret = octetsOfText(server.secret);
  const began = performance.now();
  const tls = peerOf(server, asked, own);
  const eap = new EapAsker(asked, tls);
  const packets: SaidPacket[] = [];
  const note = (from: SaidPacket['from'], code: Packet['code'], attributes: readonly Attribute[]): void => {
    const at = Math.round((performance.now() - began) * 10) / 10;
    const told = saidAttributes(attributes.slice(0, MOST_TOLD.attributes));
    packets.push({ from, name: CODES[code], at, attributes: told });
  };
  let sent = 0;
  let material: boolean | undefined;
  const over = (end: End, why: string, last?: Packet): Exchange => {
    const vlan = vlanOf(last?.attributes ?? []);
    const ring = last && ringIn(last, secret, request.authenticator, asked);
    const session = last && attributeOf(last, SESSION_TIMEOUT);
    const seen = seenIn(tls);
    const whyNot = end === 'untrusted' ? (tls?.engine as NodeTls).whyNot : why;
    tls?.engine.close();
    return {
      ...{ end, why: whyNot, address, packets, sent, ms: Math.round(performance.now() - began) },
      filterIds: (last?.attributes ?? [])
        .slice(0, MOST_TOLD.attributes)
        .flatMap(({ type, value }) => (type === FILTER_ID ? [textOfOctets(value)] : [])),
      vlan: { kind: vlan.kind, text: vlanText(vlan) },
      ...echoOf(last),
      sessionSeconds: session?.length === 4 ? Buffer.from(session).readUInt32BE() : null,
      ...seen,
      ...(material === undefined ? {} : { keys: material }),
      ...(ring && ring.length > 0 ? { ring } : {}),
    };
  };

  const authenticator = new Uint8Array(randomBytes(16));
  let request = { id: randomBytes(1)[0]!, authenticator, code: 1 as const };
  let proof: readonly Attribute[];
  try {
    proof = firstProof(asked, server.macs, secret, authenticator, new Uint8Array(randomBytes(16)));
  } catch (error) {
    return over('senseless', (error as RangeError).message);
  }
  for (let step = 0; step < MOST_STEPS; step++) {
    const attributes = [PROOF, ...proof, ...callAttributes(by, asked)];
    const { bytes } = sealAccess({ code: 1, id: request.id, attributes }, request.authenticator, secret);
    note('us', 1, attributesOf(bytes));
    const heard = await hear(bytes, place, server, (answer) => readAnswer(answer, request, secret, !server.unsigned));
    sent += heard.sent;
    if (!heard.packet) return over(heard.end, heard.why);
    note('server', heard.packet.code, heard.packet.attributes);
    if (heard.packet.code === 2) {
      // Keys that are the client’s as well: whoever is in the middle has none (RFC 3748 §7.10).
      const keys = tls && keyMaterialIn(heard.packet.attributes, secret, request.authenticator);
      if (tls) material = keys !== null && Buffer.from(keys).equals(Buffer.from(tls.keys()));
      return over('accepted', '', heard.packet);
    }
    if (heard.packet.code === 3) {
      const said = attributeOf(heard.packet, REPLY_MESSAGE);
      if (server.own && said && textOfOctets(said) === NOT_KEPT) return over('unkept', '');
      return over('rejected', said ? `It says: ${textOfOctets(said)}` : '', heard.packet);
    }
    const next = await eap.next(heard.packet);
    if (!next.ok) return over(next.end, next.why);
    proof = next.attributes;
    request = { id: (request.id + 1) & 255, authenticator: new Uint8Array(randomBytes(16)), code: 1 };
  }
  return over('senseless', `It asked back ${MOST_STEPS} times.`);
}

/** What a server wants said with each word of accounting. */
function echoOf(last: Packet | undefined): Pick<Exchange, 'echo'> {
  const said = (last?.attributes ?? []).filter(({ type }) => type === CLASS).slice(0, MOST_ECHOED);
  return said.length > 0 ? { echo: said.map(({ value }) => Buffer.from(value).toString('hex')) } : {};
}

/** The keys of a ring that an answer names, without themselves, and which of them is given. */
const ringIn = (
  { attributes }: Packet,
  secret: Uint8Array,
  authenticator: Uint8Array,
  { gives, at = '' }: AskedFor,
): NamedKey[] =>
  ringKeysIn(attributes, secret, authenticator)
    .slice(0, MOST_NAMED_KEYS)
    .map(({ key, vlan }) => ({
      vlan: { kind: vlan.kind, text: vlanText(vlan) },
      ...(keyKind(key) === null ? { unfit: true as const } : {}),
      ...(gives !== undefined && isSameKey(key, gives, at) ? { given: true as const } : {}),
    }));

/** What was seen of its certificate. */
function seenIn(tls: TlsPeer | null): Pick<Exchange, 'certificate'> {
  const seen = tls?.engine.certificate();
  return seen ? { certificate: { ...seen, trust: tls!.engine.trust } } : {};
}

type Heard =
  | { readonly packet: Packet; readonly sent: number }
  | {
      readonly packet: null;
      readonly sent: number;
      readonly end: 'closed' | 'silent' | 'unproven' | 'unsigned' | 'senseless';
      readonly why: string;
    };

/** Sends octets until they are answered, or nobody does. */
export function hear(
  bytes: Uint8Array,
  place: RealPlace,
  { timeout, tries }: Pick<AskedServer, 'timeout' | 'tries'>,
  read: (answer: Uint8Array) => ReturnType<typeof readAnswer>,
): Promise<Heard> {
  return new Promise((resolve) => {
    const socket = createSocket('udp4');
    let sent = 0;
    let worse: { readonly end: 'unproven' | 'unsigned' | 'senseless'; readonly why: string } | null = null;
    let timer: NodeJS.Timeout | undefined;
    const done = (heard: Heard): void => {
      clearTimeout(timer);
      socket.removeAllListeners();
      socket.on('error', () => {});
      socket.close();
      resolve(heard);
    };
    const again = (): void => {
      if (sent === tries) {
        const { end, why } = worse ?? { end: 'silent' as const, why: '' };
        return done({ packet: null, sent, end, why });
      }
      sent++;
      socket.send(bytes);
      wait(timeout * 1000);
    };
    const wait = (ms: number): void => {
      const due = performance.now() + ms;
      timer = setTimeout(() => {
        // Time in which this process was held up is none that the server had.
        const late = performance.now() - due;
        if (late > HELD_UP_MS) wait(Math.min(late, timeout * 1000));
        else again();
      }, ms);
    };
    socket.on('message', (answer) => {
      const heard = read(new Uint8Array(answer));
      if (heard.ok) return done({ packet: heard.packet, sent });
      // A forged answer must not keep the true one from being heard: it is waited for.
      if (heard.fault === 'unproven' || heard.fault === 'unsigned') worse = { end: heard.fault, why: heard.why };
      if (heard.fault === 'malformed') worse ??= { end: 'senseless', why: heard.why };
    });
    socket.on('error', () => done({ packet: null, sent, end: 'closed', why: '' }));
    socket.connect(place.port, place.host, again);
  });
}
