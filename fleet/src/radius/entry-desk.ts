import { setTimeout } from 'node:timers/promises';
import { parseIp } from '@iron-lattice/core/address';
import { interfacesOf, type RadiusServerDocument } from '@iron-lattice/core/document';
import { PROBE_MAC } from '@iron-lattice/core/bench';
import type { EntryTry, ProbeTry } from '@iron-lattice/core/line';
import type { Asker, Exchange } from '@iron-lattice/core/radius';
import type { Box } from '../world/box';
import type { Enters } from '../world/enters';
import type { World } from '../world/world';
import type { DirectoryFile } from './directory-file';
import { Accounting } from './accounting';
import { Changes } from './changes';
import { NamedClasses } from './named-classes';
import { askServer, notAsked, type RealPlace } from './server-question';
import { StandIn } from './stand-in';
import { StandInDirectory } from '../ldap/stand-in-directory';
import type { Certified } from '../ldap/certified';
import { MadeUpAuthority } from './stand-in-certificates';

/** How long a probe waits for who it is, in milliseconds. */
const PATIENCE_MS = 3000;

/** Addresses of this very machine (RFC 1122 §3.2.1.3): whoever tries a server of their own here is let through to it. */
const isThisMachine = (address: string): boolean => /^127\./.test(address);

/** Where boxes of the world ask who somebody is: by ways of the world, and from there with real packets. */
export class EntryDesk {
  readonly standIns: readonly StandIn[];
  /** Once they listen: boxes run what they kept before that, and ask at once. */
  private readonly listening: Promise<void>;
  /** UDP ports at which the controller answers, as each box was told. */
  private readonly own = new Map<string, number>();
  private listens: () => void = () => {};
  private readonly certified = new Map<string, Certified>();
  /** Whoever made the certificates of its servers; null before they listen. */
  authority: MadeUpAuthority | null = null;
  /** What boxes know of clients by asking. */
  readonly classes: NamedClasses;
  /** A directory that whoever likes asks by LDAP; null: there is none. */
  readonly directory: StandInDirectory | null;
  private readonly accounting: Accounting;
  /** How servers end and change what they let in. */
  readonly changes: Changes;

  constructor(
    private readonly world: World,
    directory: DirectoryFile | null,
    /** Where the controller really is. */
    private readonly controller = '127.0.0.1',
  ) {
    this.directory = directory?.ldap ? new StandInDirectory(directory.ldap) : null;
    this.standIns = (directory?.servers ?? []).map((server) => new StandIn(server, directory!));
    for (const { server } of this.standIns)
      world.asking.host(server.name, server.address, [`udp ${server.port}`, `udp ${server.accounting}`]);
    this.listening =
      this.standIns.length === 0 ? Promise.resolve() : new Promise((resolve) => (this.listens = resolve));
    this.classes = new NamedClasses(
      (serial, entry, enters) => this.ask(serial, entry, enters),
      (box) => world.entered(box),
    );
    world.namer = this.classes;
    const sittingsAt = (serial: string) => {
      // Who is there now is looked at first.
      world.clientsOf(serial);
      world.wiredOf(serial);
      return world.sittings.sittingsAt(serial);
    };
    this.accounting = new Accounting({
      box: (serial) => world.box(serial),
      asker: (serial, at) => this.asker(serial, at),
      place: (serial, server) => this.accountingPlace(serial, server),
      sittingsAt,
      echoOf: (serial, mac, server) => this.classes.echoOf(serial, mac, server),
      hurry: () => world.air.hurry,
    });
    world.sittings.ears = this.accounting;
    this.changes = new Changes(
      {
        named: (name) => world.named(name),
        addressOf: (serial) => world.addressOf(serial),
        sittingsAt,
        end: (serial, mac) => {
          world.sittings.ends(serial, mac, 'sent-away');
          this.classes.left(world.box(serial), mac);
          return world.disconnect(serial, mac);
        },
        changed: (box) => world.entered(box),
      },
      this.classes,
    );
  }

  /** @param base first of the ports at which they really listen; 0: any. */
  async listen(base: number): Promise<void> {
    if (this.standIns.length > 0) this.authority = await MadeUpAuthority.make('Made-up authority');
    for (const [i, standIn] of this.standIns.entries())
      await standIn.listen(base === 0 ? 0 : base + 2 * i, this.authority!);
    const next = base + 2 * this.standIns.length;
    await this.changes.listen(base === 0 ? 0 : next);
    // Whoever asks it is on this machine, and calls it so.
    if (this.authority)
      await this.directory?.listen(base === 0 ? 0 : next + 1, await this.authority.issue('localhost', 'server'));
    this.listens();
  }

  close(): void {
    for (const standIn of this.standIns) standIn.close();
    this.accounting.close();
    this.changes.close();
    this.directory?.close();
  }

  /** A box was told at which port its controller answers. */
  controllerAt(serial: string, port: number | undefined): void {
    if (port === undefined) this.own.delete(serial);
    else this.own.set(serial, port);
  }

  standIn(name: string): StandIn {
    const found = this.standIns.find(({ server }) => server.name === name);
    if (!found) throw new RangeError(`no RADIUS server ${name} in this fleet`);
    return found;
  }

  /** A box learns who a pretend client is, if it asks at all. */
  async learn(serial: string, { mac, entry, gives, ssid, port = '' }: ProbeTry): Promise<void> {
    if (mac === undefined && !entry && gives === undefined) return;
    // Whoever waits for what the probe gets does not wait for servers that are dead: it is as it is by then.
    const patience = new AbortController();
    await Promise.race([
      this.settle(this.world.box(serial), ssid ?? port, mac, { ...(entry ? { enters: entry } : {}), gives }),
      setTimeout(PATIENCE_MS, undefined, { signal: patience.signal }).catch(() => {}),
    ]);
    patience.abort();
  }

  private async settle(
    box: Box,
    at: string,
    mac: string | undefined,
    { enters, gives }: { readonly enters?: Enters; readonly gives: string | undefined },
  ): Promise<void> {
    await Promise.all([
      ...(enters ? [this.classes.settled(box, mac ?? PROBE_MAC, at, { enters })] : []),
      ...(gives === undefined ? [] : [this.classes.settled(box, mac ?? PROBE_MAC, at, { gives })]),
      ...(mac === undefined ? [] : [this.classes.settled(box, mac, at)]),
    ]);
  }

  /** A box asks a server for somebody. What the world does not let through is never sent. */
  async ask(serial: string, { server: told, asked, through }: EntryTry, enters?: Enters): Promise<Exchange> {
    await this.listening;
    const server = enters?.believes && this.authority ? { ...told, authority: this.authority.pem } : told;
    const own = enters?.method === 'eap-tls' ? await this.certificateOf(enters.user) : undefined;
    const { world } = this;
    const box = world.box(serial);
    const gateway = world.ownGateway(box)?.box;
    if (through !== undefined && !(gateway && facesOf(gateway).includes(through)))
      return notAsked('unreachable', `No gateway answers at ${through}, which asks for this device.`, null);
    const from = through === undefined ? serial : gateway!.device.serial;
    const by = this.asker(serial, asked.at ?? '');
    if (server.own) return this.askController({ from, server, asked, by, own });
    const looked = parseIp(server.address) ? null : world.asking.lookUp(from, server.address);
    if (looked && !looked.address)
      return notAsked(
        'unresolved',
        looked.server ? `${looked.server} has no address for it.` : 'No name server answers.',
        null,
      );
    const address = looked?.address ?? server.address;
    const place = this.placeOf(from, address, server.port);
    if ('why' in place) return notAsked(place.end, place.why, address);
    return askServer(server, asked, by, address, place, own);
  }

  /** What a box says of itself and where somebody is, at an SSID or port of it. */
  private asker(serial: string, at: string): Asker {
    const { document, device } = this.world.box(serial);
    return {
      ...{ name: document.device.name, mac: device.mac, address: this.world.addressOf(serial) },
      wireless: document.kind === 'ap' && !document.ports.some(({ name }) => name === at),
    };
  }

  /** Where a server’s accounting really is, from a box; null: nothing gets there. */
  private accountingPlace(serial: string, server: RadiusServerDocument): RealPlace | null {
    const { world } = this;
    const gateway = world.ownGateway(world.box(serial))?.box;
    if (server.through !== undefined && !(gateway && facesOf(gateway).includes(server.through))) return null;
    const from = server.through === undefined ? serial : gateway!.device.serial;
    if (server.own) {
      const port = this.own.get(from);
      return port === undefined || !world.reachesController(from) ? null : { host: this.controller, port };
    }
    const address = parseIp(server.address) ? server.address : world.asking.lookUp(from, server.address).address;
    if (!address || server.accounting === undefined) return null;
    const place = this.placeOf(from, address, server.accounting);
    return 'why' in place ? null : place;
  }

  /** Has whoever says to be a user show a certificate that somebody else made. @param certificate null: that of the world again. */
  carry(user: string, certificate: Certified | null): void {
    if (certificate) this.certified.set(user, certificate);
    else this.certified.delete(user);
  }

  /** The certificate of a user of the made-up world, made when it is first shown; or one that it carries. */
  private async certificateOf(user: string): Promise<Certified | undefined> {
    const made = this.certified.get(user) ?? (await this.authority?.issue(user, 'user'));
    if (made) this.certified.set(user, made);
    return made;
  }

  /** Asks the controller, which is where the line ends. @param from who sends it. */
  private async askController({ from, server, asked, by, own }: ToController): Promise<Exchange> {
    const port = this.own.get(from);
    if (!this.world.reachesController(from))
      return notAsked('unreachable', 'No way leads to the controller at the moment.', null);
    if (port === undefined) return notAsked('closed', 'The controller says that it does not answer.', this.controller);
    return askServer(server, asked, by, this.controller, { host: this.controller, port }, own);
  }

  /** Where requests to an address go on this machine, or what keeps them from it. */
  private placeOf(
    from: string,
    address: string,
    port: number,
  ): RealPlace | { end: 'unreachable' | 'closed' | 'silent'; why: string } {
    if (isThisMachine(address)) return { host: address, port };
    const { asking } = this.world;
    const { ok, why, stoppedBy } = asking.from(from, address, { protocol: 'udp', port });
    if (ok) {
      const here = this.standIns.find(({ server }) => server.address === address);
      if (!here) return { end: 'silent', why: '' };
      return { host: '127.0.0.1', port: port === here.server.port ? here.ports.auth : here.ports.accounting };
    }
    // A host that is there and offers nothing at the port says so (RFC 1122 §4.1.3.1); one that is not there says nothing.
    const there = stoppedBy === undefined && asking.from(from, address, { protocol: 'icmp' }).ok;
    return { end: there ? 'closed' : 'unreachable', why };
  }
}

/** A question to the controller itself. */
interface ToController {
  readonly from: string;
  readonly server: EntryTry['server'];
  readonly asked: EntryTry['asked'];
  readonly by: Asker;
  /** What the client shows of its own. */
  readonly own: Certified | undefined;
}

const facesOf = ({ document }: Box): readonly string[] =>
  interfacesOf(document).map(({ address }) => address.split('/')[0]!);
