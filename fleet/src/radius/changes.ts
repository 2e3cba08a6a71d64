import type { Socket } from 'node:dgram';
import { classBySaid, classOf } from '@iron-lattice/core/document';
import {
  answerChange,
  attributeOf,
  isSelected,
  MAC_FORMATS,
  macAs,
  NAS_IDENTIFIER,
  octetsOfText,
  readChange,
  readPacket,
  textOfOctets,
  type ChangingServer,
  type NakCause,
  type SessionChange,
} from '@iron-lattice/core/radius';
import type { Box } from '../world/box';
import type { Sitting } from '../world/sittings';
import type { NamedClasses } from './named-classes';
import { openUdp } from './udp';

/** For how long the same request gets the same answer, and answers that are remembered. */
const REPEAT_MS = 30_000;
const MOST_ANSWERED = 1024;

type Nak = { readonly cause: NakCause; readonly words: string };

/** What changes of sessions ask of the world. */
export interface Around {
  /** A box by the name that it is called by now. */
  named(name: string): Box | undefined;
  addressOf(serial: string): string | null;
  sittingsAt(serial: string): readonly Sitting[];
  /** Ends a session. @returns whether it was there. */
  end(serial: string, mac: string): boolean;
  changed(box: Box): void;
}

/** Servers end and change what they let in (RFC 5176): each box judges what comes as if it had come to its own port 3799. */
export class Changes {
  private socket: Socket | null = null;
  private readonly answered = new Map<string, { readonly until: number; readonly bytes: Uint8Array }>();
  /** UDP port on loopback at which requests to all boxes come in; 0 before it listens. */
  port = 0;

  constructor(
    private readonly around: Around,
    private readonly classes: NamedClasses,
  ) {}

  /** Begins to listen: which box is meant says the NAS-Identifier. @param port 0: any. */
  async listen(port: number): Promise<void> {
    const socket = await openUdp(port);
    this.socket = socket;
    this.port = socket.address().port;
    socket.on('message', (bytes, from) => {
      const answer = this.came(new Uint8Array(bytes), `${from.address} ${from.port}`);
      if (answer) socket.send(answer, from.port, from.address);
    });
  }

  close(): void {
    this.socket?.close();
    this.socket = null;
  }

  private came(bytes: Uint8Array, from: string): Uint8Array | null {
    const read = readPacket(bytes);
    if (!read.ok) return null;
    const name = attributeOf(read.packet, NAS_IDENTIFIER);
    const box = name && this.around.named(textOfOctets(name));
    if (!box?.powered) return null;
    const key = `${from} ${read.packet.id} ${Buffer.from(read.packet.authenticator).toString('hex')}`;
    const before = this.answered.get(key);
    if (before && before.until > Date.now()) return before.bytes;
    const answer = this.judge(box, bytes);
    if (answer) {
      this.answered.delete(key);
      if (this.answered.size >= MOST_ANSWERED) this.answered.delete(this.answered.keys().next().value!);
      this.answered.set(key, { until: Date.now() + REPEAT_MS, bytes: answer });
    }
    return answer;
  }

  /** What a box answers to octets that came to its port 3799; null: nothing. */
  judge(box: Box, bytes: Uint8Array): Uint8Array | null {
    const { document, device, secrets } = box;
    const servers = (document.radius?.servers ?? []).flatMap(({ name, secret, unsigned }): ChangingServer[] => {
      const known = secrets[secret.secret];
      return known === undefined ? [] : [{ name, secret: octetsOfText(known), ...(unsigned ? { unsigned } : {}) }];
    });
    const address = this.around.addressOf(device.serial);
    const own = { name: document.device.name, addresses: address === null ? [] : [address] };
    const read = readChange(bytes, servers, own, Date.now() / 1000);
    if (!read.ok) return null;
    return answerChange(read.change, this.carryOut(box, read.change));
  }

  /** Does what is wanted. @returns why not. */
  private carryOut(box: Box, change: SessionChange): Nak | undefined {
    if (change.nak) return change.nak;
    const { serial } = box.device;
    const meant = this.around
      .sittingsAt(serial)
      .filter((each) => isSelected(change.session, { ...each, users: usersOf(each) }));
    const [one] = meant;
    if (!one) return { cause: 'no-session', words: 'Nobody is here whom it means.' };
    if (meant.length > 1) return { cause: 'several', words: `It means ${meant.length} sessions; say which.` };
    if (change.wants === 'end') {
      this.around.end(serial, one.mac);
      return undefined;
    }
    if (one.keyedBy !== undefined) return { cause: 'prohibited', words: 'The key that it gave says its segment.' };
    if (!one.entered && classOf(box.document, one.mac))
      return { cause: 'prohibited', words: 'Its class is by its MAC address, which a class lists.' };
    const vlan = { ...change.vlan, text: vlanText(change) };
    const said = { filterIds: change.filterIds, vlan };
    const chosen = classBySaid(box.document, said);
    if (!chosen.ok) return { cause: 'value', words: `“${chosen.said}” leads nowhere here.` };
    if (!this.classes.change(box, one.mac, said)) return { cause: 'no-session', words: 'No server let it in.' };
    this.around.changed(box);
    return undefined;
  }
}

/** By what names a session may be meant: of a MAC address, in each way that servers write it. */
const usersOf = ({ entered, mac }: Sitting): readonly string[] => {
  if (entered) return [entered.user];
  return [mac, ...MAC_FORMATS.map((format) => macAs(mac, format))];
};

const vlanText = ({ vlan }: SessionChange): string =>
  vlan.kind === 'id' ? `${vlan.vlan}` : vlan.kind === 'name' ? vlan.name : '';
