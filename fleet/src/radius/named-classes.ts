import {
  classBySaid,
  classOf,
  portalBySaid,
  type PortalDocument,
  type RadiusServerDocument,
  type SaidOf,
} from '@iron-lattice/core/document';
import type { EntryTry, ServerReport } from '@iron-lattice/core/line';
import { askingOrder, type Exchange } from '@iron-lattice/core/radius';
import type { Box } from '../world/box';
import type { Enters } from '../world/enters';
import type { AskingTimes, KeyNamed, NamedClass, Namer, NotNamed, Proved } from '../world/named';

/** For how long an answer holds that says no time of its own, at least, a no, and that nobody answered, in milliseconds. */
const HOLDS_MS = { yes: 3_600_000, least: 10_000, no: 60_000, leastNo: 1000, nobody: 30_000 } as const;
/** Clients that a box remembers the answers of. */
const MOST_KNOWN = 4096;

/** Why not, where that is all there is to say. */
interface No {
  readonly why: 'rejected' | 'nobody' | 'untrusted' | 'method';
  readonly server?: string;
}

/** What a server said of somebody whom it lets in. */
interface Yes extends SaidOf, Pick<Exchange, 'ring' | 'echo'> {
  readonly server: string;
  /** Whether its method made keys for the air. */
  readonly keys: boolean;
}

/** What servers said of a client at a box, and which. */
interface Known {
  /** Null: it is not let in by any, or is being asked for. */
  readonly said: Yes | null;
  readonly no?: No;
  readonly until: number;
}

/** Who is asked for at a box, where, and what it says to be; by MAC address alone where it says nothing. */
interface Whom {
  readonly mac: string;
  readonly at: string;
  readonly enters?: Enters;
  /** The key of a ring that it gives, where servers name those. */
  readonly gives?: string;
  readonly times?: AskingTimes;
}

/** What answers are remembered by: whoever says something else is asked for anew. */
const keyOf = ({ mac, enters, gives }: Whom): string => {
  if (gives !== undefined) return `${mac} ring ${gives}`;
  return enters ? `${mac} ${enters.method} ${enters.user} ${enters.believes ?? ''} ${enters.password}` : mac;
};

/** What boxes know of clients that none of their lists has: asked of servers, one after the other, and remembered for a while. */
export class NamedClasses implements Namer {
  private readonly known = new Map<string, Map<string, Known>>();
  /** Until when servers are left alone that did not answer a box. */
  private readonly dead = new Map<string, Map<string, number>>();
  /** Whether servers answered a box when it asked last, and since when. */
  private readonly health = new Map<string, Map<string, ServerReport>>();
  /** Boxes and clients that are being asked for. */
  private readonly asking = new Set<string>();
  private turn = 0;

  constructor(
    private readonly ask: (serial: string, entry: EntryTry, enters?: Enters) => Promise<Exchange>,
    private readonly changed: (box: Box) => void,
  ) {}

  /** The class that a server chose for a client at an SSID or port; asks when it is not known, and says so when it is. */
  of(box: Box, mac: string, at: string, times?: AskingTimes): NamedClass | undefined {
    if (!box.document.radius || !box.powered || classOf(box.document, mac)) return undefined;
    const said = this.look(box, { mac, at, ...(times ? { times } : {}) })?.said;
    if (!said) return undefined;
    const chosen = classBySaid(box.document, said);
    return chosen.ok && chosen.accessClass ? { accessClass: chosen.accessClass, server: said.server } : undefined;
  }

  portalOf({ device, document }: Box, mac: string): PortalDocument | undefined {
    const said = this.known.get(device.serial)?.get(mac)?.said;
    return said ? portalBySaid(document, said) : undefined;
  }

  prove(box: Box, mac: string, at: string, enters: Enters, times?: AskingTimes): Proved | null {
    if (!box.document.radius || !box.powered) return { ok: false, why: 'unasked' };
    const known = this.look(box, { mac, at, enters, ...(times ? { times } : {}) });
    if (known?.said) return { ok: true, said: known.said, server: known.said.server, keys: known.said.keys };
    return known?.no ? { ok: false, ...known.no } : null;
  }

  key(box: Box, mac: string, at: string, gives: string): KeyNamed | null {
    if (!box.document.radius || !box.powered) return { ok: false, why: 'unasked' };
    const { said, no } = this.look(box, { mac, at, gives }) ?? {};
    if (!said) return no ? { ok: false, ...no } : null;
    const { ring = [], filterIds, server } = said;
    const given = ring.find((each) => each.given);
    return given
      ? { ok: true, said: { filterIds, vlan: given.vlan }, server }
      : { ok: false, why: 'passphrase', server };
  }

  /** What is known of somebody; it is asked for when nothing is, or not any more. */
  private look(box: Box, whom: Whom): Known | undefined {
    const { serial } = box.device;
    const here = this.known.get(serial) ?? new Map<string, Known>();
    this.known.set(serial, here);
    const known = here.get(keyOf(whom));
    if (!this.asking.has(`${serial} ${keyOf(whom)}`) && (!known || known.until < Date.now()))
      void this.find(box, whom, here);
    return known;
  }

  whyNot(box: Box, mac: string): NotNamed | undefined {
    const known = this.known.get(box.device.serial)?.get(mac);
    if (classOf(box.document, mac)) return undefined;
    if (!known?.said) return known?.no;
    const { server } = known.said;
    const chosen = classBySaid(box.document, known.said);
    if (!chosen.ok) return { why: chosen.why, said: chosen.said, server };
    return chosen.accessClass ? undefined : { why: 'nothing', server };
  }

  /** What is known of a client, once it is. */
  async settled(
    box: Box,
    mac: string,
    at: string,
    { enters, gives }: Pick<Whom, 'enters' | 'gives'> = {},
  ): Promise<void> {
    if (!box.document.radius || (!enters && gives === undefined && classOf(box.document, mac))) return;
    const here = this.known.get(box.device.serial) ?? new Map<string, Known>();
    this.known.set(box.device.serial, here);
    const says = { ...(enters ? { enters } : {}), ...(gives === undefined ? {} : { gives }) };
    await this.find(box, { mac, at, ...says }, here);
  }

  /** What a server that let somebody in wants said with its accounting. */
  echoOf(serial: string, mac: string, server: string): readonly string[] {
    for (const [key, { said }] of this.known.get(serial) ?? [])
      if (said?.echo && said.server === server && (key === mac || key.startsWith(`${mac} `))) return said.echo;
    return [];
  }

  left(box: Box, mac: string): void {
    const here = this.known.get(box.device.serial);
    for (const key of here?.keys() ?? []) if (key === mac || key.startsWith(`${mac} `)) here!.delete(key);
  }

  serversOf = ({ device, document }: Box): readonly ServerReport[] => {
    const told = new Set((document.radius?.servers ?? []).map(({ name }) => name));
    return [...(this.health.get(device.serial)?.values() ?? [])].filter(({ name }) => told.has(name));
  };

  private answered(serial: string, name: string, answers: boolean): void {
    const here = this.health.get(serial) ?? new Map<string, ServerReport>();
    this.health.set(serial, here);
    if (here.get(name)?.answers !== answers) here.set(name, { name, answers, since: Date.now() });
  }

  /** A server says otherwise of somebody whom one let in; until they are asked for anew. @returns whether one did. */
  change(box: Box, mac: string, said: SaidOf): boolean {
    const here = this.known.get(box.device.serial);
    let found = false;
    for (const [key, known] of here ?? []) {
      // What a key comes to is said with the key.
      if (!known.said || key.startsWith(`${mac} ring `) || (key !== mac && !key.startsWith(`${mac} `))) continue;
      here!.set(key, { ...known, said: { ...known.said, ...said } });
      found = true;
    }
    return found;
  }

  /** A box forgets what it knew, as one that starts does. */
  forget(serial: string): void {
    this.known.delete(serial);
    this.dead.delete(serial);
    this.health.delete(serial);
  }

  private async find(box: Box, whom: Whom, here: Map<string, Known>): Promise<void> {
    const key = keyOf(whom);
    const before = here.get(key);
    const keep = (said: Known['said'], ms: number, no?: No): void => {
      here.delete(key);
      if (here.size >= MOST_KNOWN) here.delete(here.keys().next().value!);
      here.set(key, { said, until: Date.now() + ms, ...(no ? { no } : {}) });
    };
    // Asked for once, however long that takes: what held before holds meanwhile.
    const one = `${box.device.serial} ${key}`;
    this.asking.add(one);
    const { exchange, server } = await this.first(box, whom).catch(() => ({ exchange: null, server: '' }));
    this.asking.delete(one);
    const { quiet, again } = whom.times ?? {};
    const no = quiet === undefined ? HOLDS_MS.no : Math.max(HOLDS_MS.leastNo, quiet * 1000);
    const ofClass = exchange?.end === 'accepted' ? classBySaid(box.document, exchange) : null;
    // What the class says counts for its clients, and what is usual at the port for others.
    const asksAgain = (ofClass?.ok ? ofClass.accessClass?.again : undefined) ?? again;
    const yes = asksAgain === undefined ? HOLDS_MS.yes : asksAgain * 1000;
    const seconds = exchange?.sessionSeconds ?? null;
    if (exchange?.end === 'accepted')
      keep(yesOf(exchange, server), seconds === null ? yes : Math.min(yes, Math.max(HOLDS_MS.least, seconds * 1000)));
    else if (exchange?.end === 'rejected' || exchange?.end === 'unkept') keep(null, no, { why: 'rejected', server });
    else if (exchange && isFinal(exchange.end, whom))
      keep(null, no, { why: exchange.end === 'untrusted' ? 'untrusted' : 'method', server });
    // Who was known stays so while nobody answers.
    else keep(before?.said ?? null, HOLDS_MS.nobody, { why: 'nobody' });
    this.changed(box);
  }

  /** What the first server says that answers at all. */
  private async first(box: Box, whom: Whom): Promise<{ exchange: Exchange | null; server: string }> {
    const { serial } = box.device;
    const dead = this.dead.get(serial) ?? new Map<string, number>();
    this.dead.set(serial, dead);
    let last: Exchange | null = null;
    let unkept: { exchange: Exchange; server: string } | null = null;
    for (const server of askingOrder(box.document.radius?.servers ?? [], dead, Date.now(), this.turn++)) {
      const entry = entryOf(box, server, whom);
      if (!entry) continue;
      last = await this.ask(serial, entry, whom.enters);
      this.answered(serial, server.name, isAnswer(last.end));
      if (last.end === 'accepted' || last.end === 'rejected' || isFinal(last.end, whom)) {
        dead.delete(server.name);
        return { exchange: last, server: server.name };
      }
      if (last.end === 'unkept') {
        dead.delete(server.name);
        unkept = { exchange: last, server: server.name };
      } else dead.set(server.name, Date.now() + server.dead * 1000);
    }
    return unkept ?? { exchange: last, server: '' };
  }
}

function yesOf({ filterIds, vlan, keys = false, ring, echo }: Exchange, server: string): Yes {
  return { filterIds, vlan, server, keys, ...(ring ? { ring } : {}), ...(echo ? { echo } : {}) };
}

/** Whether nobody else is asked after that: of somebody who says who it is, the client itself ended it. */
const isFinal = (end: Exchange['end'], { enters }: Whom): boolean =>
  enters !== undefined && (end === 'untrusted' || end === 'other-method');

/** Whether a server said something that is its own. */
const isAnswer = (end: Exchange['end']): boolean =>
  ['accepted', 'rejected', 'unkept', 'untrusted', 'other-method'].includes(end);

function entryOf({ secrets }: Box, server: RadiusServerDocument, { mac, at, enters, gives }: Whom): EntryTry | null {
  const { name, own, address, port, timeout, tries, macs, unsigned, through } = server;
  const secret = secrets[server.secret.secret];
  // The controller keeps no keys at its server.
  if ((macs === undefined && !enters) || (gives !== undefined && own) || secret === undefined) return null;
  const who = enters ?? ({ method: 'mac', user: mac, password: '' } as const);
  return {
    server: {
      ...{ name, address, port, secret, timeout, tries, macs: macs ?? 'none_lower' },
      ...(own ? { own } : {}),
      ...(unsigned ? { unsigned } : {}),
    },
    asked: {
      ...{ method: who.method, user: who.user, password: who.password, mac, at },
      ...(gives === undefined ? {} : { gives }),
    },
    ...(through === undefined ? {} : { through }),
  };
}
