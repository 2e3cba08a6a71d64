import { classBySaid, classOf, type RadiusServerDocument, type SaidOf } from '@iron-lattice/core/document';
import type { EntryTry } from '@iron-lattice/core/line';
import { askingOrder, type Exchange } from '@iron-lattice/core/radius';
import type { Box } from '../world/box';
import type { NamedClass, Namer, NotNamed } from '../world/named';

/** For how long an answer holds that says no time of its own, at least, a no, and that nobody answered, in milliseconds. */
const HOLDS_MS = { yes: 3_600_000, least: 10_000, no: 60_000, nobody: 30_000 } as const;
/** Clients that a box remembers the answers of. */
const MOST_KNOWN = 4096;

/** What servers said of a client at a box, and which. */
interface Known {
  /** Null: it is not let in by any, or is being asked for. */
  readonly said: (SaidOf & { readonly server: string }) | null;
  /** Why not, where that is all there is to say. */
  readonly no?: NotNamed;
  readonly until: number;
}

/** What boxes know of clients that none of their lists has: asked of servers, one after the other, and remembered for a while. */
export class NamedClasses implements Namer {
  private readonly known = new Map<string, Map<string, Known>>();
  /** Until when servers are left alone that did not answer a box. */
  private readonly dead = new Map<string, Map<string, number>>();
  /** Boxes and clients that are being asked for. */
  private readonly asking = new Set<string>();
  private turn = 0;

  constructor(
    private readonly ask: (serial: string, entry: EntryTry) => Promise<Exchange>,
    private readonly changed: (box: Box) => void,
  ) {}

  /** The class that a server chose for a client at an SSID or port; asks when it is not known, and says so when it is. */
  of(box: Box, mac: string, at: string): NamedClass | undefined {
    const { radius } = box.document;
    if (!radius || !box.powered || classOf(box.document, mac)) return undefined;
    const { serial } = box.device;
    const here = this.known.get(serial) ?? new Map<string, Known>();
    this.known.set(serial, here);
    const known = here.get(mac);
    if (!this.asking.has(`${serial} ${mac}`) && (!known || known.until < Date.now()))
      void this.find(box, mac, at, here);
    if (!known?.said) return undefined;
    const chosen = classBySaid(box.document, known.said);
    return chosen.ok && chosen.accessClass ? { accessClass: chosen.accessClass, server: known.said.server } : undefined;
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
  async settled(box: Box, mac: string, at: string): Promise<NamedClass | undefined> {
    if (!box.document.radius || classOf(box.document, mac)) return undefined;
    const here = this.known.get(box.device.serial) ?? new Map<string, Known>();
    this.known.set(box.device.serial, here);
    await this.find(box, mac, at, here);
    return this.of(box, mac, at);
  }

  /** A box forgets what it knew, as one that starts does. */
  forget(serial: string): void {
    this.known.delete(serial);
    this.dead.delete(serial);
  }

  private async find(box: Box, mac: string, at: string, here: Map<string, Known>): Promise<void> {
    const before = here.get(mac);
    const keep = (said: Known['said'], ms: number, no?: NotNamed): void => {
      here.delete(mac);
      if (here.size >= MOST_KNOWN) here.delete(here.keys().next().value!);
      here.set(mac, { said, until: Date.now() + ms, ...(no ? { no } : {}) });
    };
    // Asked for once, however long that takes: what held before holds meanwhile.
    const one = `${box.device.serial} ${mac}`;
    this.asking.add(one);
    const { exchange, server } = await this.first(box, mac, at).catch(() => ({ exchange: null, server: '' }));
    this.asking.delete(one);
    const seconds = exchange?.sessionSeconds ?? null;
    if (exchange?.end === 'accepted')
      keep({ ...exchange, server }, seconds === null ? HOLDS_MS.yes : Math.max(HOLDS_MS.least, seconds * 1000));
    else if (exchange?.end === 'rejected' || exchange?.end === 'unkept')
      keep(null, HOLDS_MS.no, { why: 'rejected', server });
    // Who was known stays so while nobody answers.
    else keep(before?.said ?? null, HOLDS_MS.nobody, { why: 'nobody' });
    this.changed(box);
  }

  /** What the first server says that answers at all. */
  private async first(box: Box, mac: string, at: string): Promise<{ exchange: Exchange | null; server: string }> {
    const { serial } = box.device;
    const dead = this.dead.get(serial) ?? new Map<string, number>();
    this.dead.set(serial, dead);
    let last: Exchange | null = null;
    let unkept: { exchange: Exchange; server: string } | null = null;
    for (const server of askingOrder(box.document.radius?.servers ?? [], dead, Date.now(), this.turn++)) {
      const entry = entryOf(box, server, mac, at);
      if (!entry) continue;
      last = await this.ask(serial, entry);
      if (last.end === 'accepted' || last.end === 'rejected') {
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

function entryOf({ secrets }: Box, server: RadiusServerDocument, mac: string, at: string): EntryTry | null {
  const { name, own, address, port, timeout, tries, macs, unsigned, through } = server;
  const secret = secrets[server.secret.secret];
  if (macs === undefined || secret === undefined) return null;
  return {
    server: {
      ...{ name, address, port, secret, timeout, tries, macs },
      ...(own ? { own } : {}),
      ...(unsigned ? { unsigned } : {}),
    },
    asked: { method: 'mac', user: mac, password: '', mac, at },
    ...(through === undefined ? {} : { through }),
  };
}
