import { contains, formatIp, parseIp, parseMac, parsePrefix, selfMadeAddress } from '@iron-lattice/core/address';
import {
  farEndOfSsid,
  interfacesOf,
  tunnelOfSsid,
  type AddressServiceDocument,
  type ApDocument,
  type DeviceDocument,
  type Interface6Document,
} from '@iron-lattice/core/document';
import { joinsOnSsid } from '@iron-lattice/core/lattice';
import { sheetFor } from '@iron-lattice/core/hardware';
import type {
  ClientReport,
  HitReport,
  LeaseReport,
  MeshReport,
  NeighbourReport,
  NoteReport,
  PathsReport,
  PortReport,
  RefusedReport,
  SpeedTry,
  TunnelReport,
  UnknownReport,
  UplinkReport,
  WiredReport,
} from '@iron-lattice/core/line';
import { factoryDocument } from './factory-document';
import { walkAcross } from './across';
import { Asking } from './asking';
import { isPrivate } from './outside';
import { classTold } from './capped';
import { OnAir } from '../air/on-air';
import { AirClients } from './air-clients';
import type { Box, Spot } from './box';
import { CableClients } from './cable-clients';
import { GuestDoor, type HeldAt } from './guest-door';
import { guestsHere } from './guests-here';
import { Hanging } from './hanging';
import { Leases, outsideService } from './leases';
import { OnHours } from './on-hours';
import { admission } from './admission';
import type { Admitted } from './keys';
import { Sittings } from './sittings';
import { Paths } from '../paths/paths';
import { FarGateways } from '../paths/far-gateways';
import { Providers, type Weather } from '../paths/providers';
import { Pairs } from './pairs';
import { Plant } from './plant';
import { Policing } from './policing';
import { portFacts } from './port-facts';
import { answersThere, facesOf, innerWay } from './routers-on-way';
import { routerBox } from './router-box';
import { ROUTER_PORT, routerDocument, type WorldRouter } from './world-router';
import { spotOf, Tunnels } from './tunnels';
import { NO_NAMER, type Namer } from './named';
import { trySpeed, type SpeedTried } from './speed-try';
import { unknownAt } from './unknown';
import type { AirClient, WiredClient, WorldClient, WorldDevice, WorldFile } from './world-file';

/**
 * The physical world: cables, providers, clients, and what every box does by the document it runs right now.
 * Frames go where 802.1Q lets them go; nothing here asks the controller or believes it.
 */
export class World {
  private readonly plant: Plant;
  private readonly hanging: Hanging;
  private readonly leases = new Leases();
  private readonly onHours = new OnHours((box) => this.changed(box));
  /** When each client was first seen where it is, by MAC and place. */
  private readonly joined = new Map<string, number>();
  /** Who is at the far ends of gateways’ uplinks, and how gateways leave by them. */
  readonly providers: Providers;
  readonly paths: Paths<Box>;
  private listener: (serials: string[]) => void = () => {};
  private readonly policing = new Policing();
  /** What APs carry to gateways inside packets. */
  private readonly tunnels = new Tunnels({
    gatewayOver: (start) => this.plant.way(start, hasFace, undefined, null)?.at(-1) ?? null,
    addressOf: ({ device }) => this.addressOf(device.serial),
    letsThrough: (ap, from, gateway, to) => {
      const start = { box: ap, vlan: ap.document.management.vlan };
      const way = this.plant.way(start, ({ box }) => box === gateway, undefined, null);
      return this.policing.letsTunnel({ from, to }, switchesOf(way), gateway);
    },
    across: (gateway, from, to) => {
      const there = walkAcross(this, gateway, from, to);
      const end = there.path.at(-1)!;
      if (there.stop || end === gateway) return null;
      const back = walkAcross(this, end, to, from);
      return !back.stop && back.path.at(-1) === gateway ? end : null;
    },
    judges: (gateway, from, to) => this.policing.letsTunnel({ from, to }, [], gateway),
  });
  /** Gateways that take turns. */
  readonly pairs = new Pairs({
    box: (serial) => (this.plant.serials.includes(serial) ? this.box(serial) : undefined),
    reaches: (from, to, vlan) => {
      const way = this.plant.way({ box: from, vlan }, (spot) => spot.box === to && spot.vlan === vlan, undefined, null);
      return way !== null && this.policing.letsVrrp(from, switchesOf(way));
    },
    isGood: (box, port) => this.paths.of(box)?.isGood(port) ?? false,
    turned: (box, routes, why) => {
      box.document = this.pairs.effectOf(box) ?? box.document;
      this.paths.run(box);
      this.paths.of(box)?.turned(routes, why);
      this.changed(box);
    },
    tellLeases: (from, to) => this.leases.tell(from.device.serial, to.device.serial),
  });
  /** Who sits where, for how long yet, and what they took. */
  readonly sittings = new Sittings(
    (serial, mac) => this.sittingOver(serial, mac),
    () => this.air.hurry,
    (serial, mac, taken) => this.guests.slowAt(serial, mac, taken),
  );
  /** Guests that are held back until the controller lets them in. */
  readonly guests: GuestDoor = new GuestDoor({
    taken: (serial, mac) => {
      const taken = this.sittings.takenAt(serial).find((each) => each.mac === mac);
      return taken ? taken.down + taken.up : 0;
    },
    names: () => this.asking.known(),
  });
  /** What is sent and heard on the air. */
  readonly air: OnAir;
  private readonly onAir: AirClients;
  private readonly onCables = new CableClients(this);
  /** What boxes and clients ask of the network. */
  readonly asking: Asking;
  /** Who tells what servers say of clients; nobody asks any until somebody does. */
  namer: Namer = NO_NAMER;

  constructor(readonly file: WorldFile) {
    this.providers = new Providers(file);
    this.paths = new Paths<Box>(
      this.providers,
      (box) => {
        this.pairs.look(box);
        this.changed(box);
      },
      (...asked) => this.asking.handsOn(...asked),
      new FarGateways(file),
    );
    this.asking = new Asking(this, this.policing);
    this.onAir = new AirClients(this);
    this.air = new OnAir(file.air, (serial) => this.changed(this.box(serial)));
    const boxes = file.devices.map((device): Box => {
      const document = factoryDocument(device);
      const powered = device.off !== true;
      return {
        device,
        document,
        secrets: {},
        rings: new Map(),
        powered,
        cables: new Map(),
        hangs: null,
        hung: [],
        island: [],
      };
    });
    const routers = file.routers ?? [];
    const plugs = routers.map(({ name, at }) => [at, `${name}:${ROUTER_PORT}`] as const);
    this.plant = new Plant([...boxes, ...routers.map(routerBox)], [...file.cables, ...plugs]);
    this.plant.tunnels = this.tunnels;
    this.hanging = new Hanging(this.plant, this.air);
    for (const box of boxes) {
      if (sheetFor(box.device).kind !== 'ap') continue;
      this.air.addAp(box, box.island[0]!.device.serial);
      this.air.run(box);
    }
    for (const client of file.clients) if ('near' in client) this.air.addClient(client.mac, client.near);
  }

  /** Calls back with the serials whose surroundings may have changed. */
  onChange(listener: (serials: string[]) => void): void {
    this.listener = listener;
  }

  /** Makes a box do what a document says, from this moment. */
  run(serial: string, document: DeviceDocument, secrets: Readonly<Record<string, string>>): void {
    const box = this.box(serial);
    box.document = this.pairs.run(box, document);
    box.secrets = secrets;
    this.tunnels.told(box);
    this.air.run(box);
    this.onHours.follow(box);
    this.paths.run(box);
    this.changed(box);
  }

  power(serial: string, on: boolean): void {
    const box = this.box(serial);
    if (!on) {
      this.sittings.forget(serial);
      this.guests.forget(serial);
    }
    box.powered = on;
    box.document = this.pairs.power(box);
    this.air.run(box);
    this.paths.run(box);
    this.changed(box);
  }

  /** Takes a provider down or up again, for everyone it serves. */
  provider(name: string, up: boolean): void {
    this.fares(name, { up });
  }

  /** A provider fares otherwise from now on. */
  fares(name: string, change: Partial<Weather>): void {
    this.providers.set(name, change);
    this.paths.look();
    this.listener(this.plant.serials);
  }

  /** Clocks of gateways run from now on: uplinks are asked at their intervals. */
  begin(): void {
    this.paths.begin(this.plant.serials.map(this.box).filter(({ router }) => !router));
    this.pairs.begin();
  }

  isPowered = (serial: string): boolean => this.box(serial).powered;

  /** A router of somebody else’s does something else from now on. */
  alter(name: string, change: Partial<WorldRouter> & { readonly on?: boolean | undefined }): void {
    const box = this.box(name);
    if (!box.router) throw new RangeError(`${name} is no router of others`);
    const { on = box.powered, ...said } = change;
    box.router = { ...box.router, ...said };
    box.document = routerDocument(box.router);
    box.powered = on;
    this.changed(box);
  }

  /** The router that a spot’s frames reach at an address. */
  routerAt = (start: Spot, address: string): Spot | null =>
    start.box.island.some((box) => facesOf(box).includes(address))
      ? this.plant.firstReached(start, (spot) => answersThere(spot, address))
      : null;

  /** Whether frames of the box itself get out to the internet, where the controller is. */
  reachesController(serial: string): boolean {
    const box = this.box(serial);
    if (!box.powered) return false;
    if (box.document.kind === 'gateway' && this.hasUplink(box)) return true;
    const gateway = this.ownGateway(box);
    if (gateway === null) return false;
    const { path, stop } = innerWay(this, gateway, this.controller);
    const last = path.at(-1)!.box;
    if (stop !== undefined || !(last.router?.ownWayOut ?? this.hasUplink(last))) return false;
    const switches = this.wayTo({ box, vlan: box.document.management.vlan }, gateway.box);
    const [address, controller] = [this.addressOf(serial), this.controller];
    return path.every((spot) => this.policing.letsOut(spot.box, address, controller, switches));
  }

  /** Where the controller answers for devices in this world. */
  get controller(): string {
    return this.file.controller ?? '203.0.113.200';
  }

  /** The gateway a box sends through: one it reaches and, with a fixed address, the one it was told of. */
  ownGateway(box: Box): Spot | null {
    const { vlan, address } = box.document.management;
    const gateway = this.gatewayFrom({ box, vlan });
    if (!gateway || !address) return gateway;
    return this.answersAt(gateway, address.gateway) ? gateway : null;
  }

  /** Whether a gateway answers at an address in the VLAN it is reached in, be it one it still keeps from before. */
  private answersAt(spot: Spot, address: string): boolean {
    const { document } = spot.box;
    const face = interfacesOf(document).find((each) => each.vlan === spot.vlan);
    return [face?.address, ...(face?.former ?? [])].some((each) => each?.split('/')[0] === address);
  }

  /** The address at which a gateway answers in the VLAN it is reached in. */
  faceOf({ box, vlan }: Spot): string | null {
    return (
      interfacesOf(box.document)
        .find((face) => face.vlan === vlan)
        ?.address.split('/')[0] ?? null
    );
  }

  /** The box's own address in its management VLAN, or null when nobody gives it one. */
  addressOf(serial: string): string | null {
    const box = this.box(serial);
    const { vlan, address } = box.document.management;
    if (address) return address.address;
    if (box.document.kind === 'gateway' && box.document.pair) return box.document.pair.own.split('/')[0]!;
    if (box.document.kind === 'gateway') {
      const own = box.document.interfaces.find((face) => face.vlan === vlan);
      if (own) return own.address.split('/')[0]!;
    }
    return this.lease({ box, vlan }, box.device.mac);
  }

  /** Whether the far end of an AP's tunnel answers; null for a box without one. */
  tunnelOf(serial: string): TunnelReport | null {
    const box = this.box(serial);
    const { document } = box;
    if (document.kind !== 'ap' || !document.tunnel || !box.powered) return null;
    return { to: document.tunnel.to, answers: this.tunnels.farEnd(box) !== null };
  }

  /** The same of its tunnels to other sites. */
  landingsOf(serial: string): TunnelReport[] {
    const box = this.box(serial);
    const { document } = box;
    if (document.kind !== 'ap' || !box.powered) return [];
    return (document.landings ?? []).map(({ to }) => ({ to, answers: this.tunnels.farEnd(box, to) !== null }));
  }

  neighboursOf = (serial: string): NeighbourReport[] => this.plant.neighboursOf(serial);

  /** How a gateway leaves; null for other boxes. */
  pathsOf(serial: string): PathsReport | null {
    const box = this.box(serial);
    const [report, pair] = [this.paths.report(box), this.pairs.report(box)];
    return report && pair ? { ...report, pair } : report;
  }

  /** How an AP hangs on another by radio; null while it does not. */
  meshOf(serial: string): MeshReport | null {
    const { hangs } = this.box(serial);
    if (!hangs) return null;
    const { on, ...link } = hangs;
    return { parent: on.device.mac, ...link };
  }

  /** Pulls all cables out of a box, or puts them back. */
  pull(serial: string, out: boolean): void {
    const box = this.box(serial);
    const near = [...box.cables.keys()].map((port) => this.plant.cabledTo(box, port)!.box);
    this.plant.pull(serial, out);
    for (const each of new Set([box, ...near])) this.changed(each);
  }

  uplinksOf(serial: string): UplinkReport[] {
    const { document } = this.box(serial);
    if (document.kind !== 'gateway') return [];
    const paths = this.paths.of(this.box(serial));
    return document.uplinks.map(({ port }) => {
      const address = paths?.addressOf(port) ?? null;
      const six = paths?.given6At(port);
      const prefix = six && six.address !== null && six.prefix !== undefined ? { prefix: six.prefix } : {};
      const given = paths?.givenAt(port);
      const gateway = given && given.address !== null ? { gateway: given.gateway } : {};
      return { port, up: address !== null, address, ...prefix, ...gateway };
    });
  }

  /** Clients that an AP took in, with the address each was really given. */
  clientsOf = (serial: string): ClientReport[] => this.onAir.joinedAt(this.box(serial));
  /** Clients of a box, on the air and on cables, that a portal holds back, or would. */
  guestsAt = (serial: string): readonly HeldAt[] => guestsHere(this.box(serial), this);
  /** Clients that try an SSID of an AP and are not taken in, and why. */
  refusedOf = (serial: string): RefusedReport[] => this.onAir.refusedAt(this.box(serial));
  /** The AP that a client is served by. */
  servedBy = (client: AirClient): string => this.onAir.servedBy(client);

  /** A client walks to another AP of its place. */
  walk(mac: string, serial: string): void {
    const from = this.box(this.onAir.walk(mac, this.box(serial)));
    this.changed(from);
    this.changed(this.box(serial));
  }

  /** A client is told to look for another network, and what to give there. */
  lookFor(mac: string, ssid: string, gives: Pick<AirClient, 'passphrase' | 'enters'>): void {
    const at = this.file.clients.findIndex((client) => client.mac === mac && 'near' in client);
    if (at < 0) throw new RangeError(`no client ${mac} on the air`);
    const { passphrase: _passphrase, enters: _enters, ...client } = this.file.clients[at] as AirClient;
    (this.file.clients as WorldClient[])[at] = { ...client, ssid, ...gives };
    this.onAir.forget(mac);
    this.changed(this.box(client.near));
  }

  /** Something that is no device of ours is plugged in at a port, where it is the newest. @param client null: it is pulled out. */
  plug(mac: string, client: WiredClient | null): void {
    const next = client && this.box(client.at.split(':')[0]!);
    const before = this.onCables.put(mac, client);
    this.forgetJoined(mac);
    const left = before && this.box(before.at.split(':')[0]!);
    if (left) {
      this.namer.left(left, mac);
      this.changed(left);
    }
    if (next) this.changed(next);
  }

  /** Somebody's time at a box is over: who it is has to be found out anew. */
  private sittingOver(serial: string, mac: string): void {
    this.namer.left(this.box(serial), mac);
    if (!this.disconnect(serial, mac)) this.changed(this.box(serial));
  }

  isHushed = (mac: string): boolean => this.sittings.isHushed(mac);

  /** A client sends nothing any more, or again. */
  hush(mac: string, on: boolean): void {
    const client = this.file.clients.find((each) => each.mac === mac);
    if (!client) throw new RangeError(`no client ${mac}`);
    this.sittings.hush(mac, on);
    this.changed(this.box('near' in client ? this.servedBy(client) : client.at.split(':')[0]!));
  }

  /** A box ends what a client has: an AP sends it away, and it comes back by itself after a while. @returns whether it was there. */
  disconnect(serial: string, mac: string): boolean {
    const box = this.box(serial);
    if (this.comersAt(box).some(({ client, at }) => client.mac === mac && at.vlan !== null)) {
      // At a port it is asked anew who it is, as when its plug was pulled.
      this.namer.left(box, mac);
      this.forgetJoined(mac);
      this.changed(box);
      return true;
    }
    const ms = this.onAir.sendAway(box, mac);
    if (ms === null) return false;
    this.changed(box);
    setTimeout(() => this.changed(box), ms + 1).unref();
    return true;
  }

  /** What a probe near an AP gets, down and up, and what of the way to somebody on the internet is the narrowest. */
  trySpeed(serial: string, asked: SpeedTry): SpeedTried {
    const box = this.box(serial);
    const { document } = box;
    const sent = document.kind === 'ap' ? document.ssids.find(({ id }) => id === asked.ssid) : undefined;
    const ofClass =
      asked.classId === undefined ? undefined : sent && classTold(document as ApDocument, sent, asked.classId);
    const vlan = sent && joinsOnSsid(document, sent, null, undefined, ofClass).vlan;
    const spot = sent && typeof vlan === 'number' ? spotOf(box, sent, vlan) : null;
    const gateway = (spot ? this.gatewayFrom(spot) : this.ownGateway(box))?.box;
    const inside = sent && document.kind === 'ap' ? tunnelOfSsid(document, sent)?.mtu : undefined;
    const near = sent && farEndOfSsid(sent) !== null ? this.ownGateway(box)?.box : undefined;
    return trySpeed(this.air, asked, {
      ...{ box, inside, near },
      gateway: gateway && this.hasUplink(gateway) ? gateway : null,
      spot,
      portSpeed: (on) => this.portsOf(on.device.serial).find(({ up }) => up)?.speed,
      provider: (at) => {
        const [first] = this.paths.of(at)?.used() ?? [];
        return first && this.providers.at(`${at.device.serial}:${first.port}`);
      },
    });
  }

  /** Clients that speak on the ports of a box. */
  wiredOf = (serial: string): WiredReport[] => this.onCables.joinedAt(this.box(serial));
  /** Clients on cables at a box, port by port, and what becomes of each. */
  comersAt = (box: Box) => this.onCables.comersAt(box);

  /** Clients that a box asks who they are, and that nobody knows. */
  unknownOf = (serial: string): UnknownReport[] => unknownAt(this.box(serial), this);

  portsOf = (serial: string): PortReport[] => portFacts(this.box(serial), this.plant, this.file);

  leasesOf(serial: string): LeaseReport[] {
    // One that stands by knows them, and gave none out.
    const pair = this.pairs.stateOf(serial);
    return pair === null || pair === 'active' ? this.leases.of(serial) : [];
  }

  /** How often each rule of a device decided; of a gateway, its clients' talk since the last time included. */
  hitsOf(serial: string): HitReport[] {
    const box = this.box(serial);
    if (!box.powered) return [];
    if (box.document.kind === 'gateway') this.asking.talk(box, this.file.clients);
    return this.policing.hitsOf(box);
  }

  /** What somebody outside gets that asks for something at an address. */
  knock: Asking['knock'] = (...asked) => this.asking.knock(...asked);

  /** The latest packets that a device noted, oldest first. */
  notesOf = (serial: string): readonly NoteReport[] => this.policing.notesOf(this.box(serial));

  /** Every box whose own address a gateway can reach, with that address. */
  seenFrom(serial: string): { address: string; device: WorldDevice }[] {
    return this.box(serial).island.flatMap((box) => {
      if (!box.powered || (box.device.serial !== serial && this.ownGateway(box)?.box.device.serial !== serial))
        return [];
      const address = this.addressOf(box.device.serial);
      return address ? [{ address, device: box.device }] : [];
    });
  }

  /** Where a box's own frames leave it, its address, and who takes them on; null while nothing gets through. */
  wayOut(serial: string): { port: string; address: string | null; nextMac: string; nextIp: string } | null {
    const box = this.box(serial);
    const address = this.addressOf(serial);
    if (box.document.kind === 'gateway') {
      const paths = this.paths.of(box);
      const port = paths?.used()[0]?.port;
      const given = port === undefined ? undefined : paths?.givenAt(port);
      if (port === undefined || !given || given.address === null) return null;
      return { port, address: given.address, nextMac: '02:00:5e:00:01:01', nextIp: given.gateway };
    }
    const gateway = this.ownGateway(box);
    const face = gateway && this.faceOf(gateway);
    if (!gateway || !face) return null;
    for (const port of box.document.ports)
      for (const { box: peer, port: name } of this.plant.endsOf(box, port.name)) {
        if (!peer.powered) continue;
        const entry = peer.document.ports.find((each) => each.name === name);
        const vlan = port.untagged === box.document.management.vlan ? entry?.untagged : box.document.management.vlan;
        if (vlan === null || vlan === undefined || !this.gatewayFrom({ box: peer, vlan }, box)) continue;
        return { port: port.name, address, nextMac: gateway.box.device.mac, nextIp: face };
      }
    return null;
  }

  /** Moves the cables of one box to another, port by port where it has one of the same name. */
  recable(from: string, to: string): void {
    const touched = this.plant.recable(from, to);
    for (const provider of this.file.providers)
      for (const [socket, address] of Object.entries(provider.gives)) {
        const [serial, port] = socket.split(':');
        if (serial === from) {
          delete (provider.gives as Record<string, string>)[socket];
          (provider.gives as Record<string, string>)[`${to}:${port}`] = address;
        }
      }
    this.providers.index();
    this.paths.look();
    this.listener(touched);
  }

  admits = (box: Box, client: AirClient, others?: ReadonlyMap<string, number>): Admitted =>
    admission(box, client, this.namer, others);

  /** A box learnt who a client is. */
  entered = (box: Box): void => this.changed(box);

  /** Keys of a ring were told to a box: whoever gives one that is right no more is had no more. */
  keysChanged(serial: string): void {
    const box = this.box(serial);
    this.onHours.follow(box);
    this.changed(box);
  }

  /** When a client was first seen at a place. */
  sinceAt(mac: string, place: string): number {
    const key = `${mac} ${place}`;
    const since = this.joined.get(key) ?? Date.now();
    this.joined.set(key, since);
    return since;
  }

  /** A client is where it is for the first time again. */
  forgetJoined(mac: string): void {
    for (const key of this.joined.keys()) if (key.startsWith(`${mac} `)) this.joined.delete(key);
  }

  /** The address that the nearest service gives that the spot's frames reach, its own VLAN or another they slip into. */
  lease(spot: Spot, mac: string, name?: string): string | null {
    const served = this.plant.firstReached(spot, ({ box, vlan }) => this.serviceAt(box, vlan) !== null);
    const service = served && this.serviceAt(served.box, served.vlan);
    return service ? this.leases.give(served.box.device.serial, service, mac, name) : null;
  }

  /** The IPv6 address a client has by the first router advertisement that reaches it: its own making, or asked for. */
  address6(spot: Spot, mac: string): string | null {
    const told = ({ box: { document }, vlan }: Spot): Interface6Document | undefined =>
      document.kind === 'gateway' ? document.interfaces6?.find((each) => each.vlan === vlan) : undefined;
    if (!spot.box.island.some(({ document }) => document.kind === 'gateway' && document.interfaces6)) return null;
    const router = this.plant.firstReached(spot, (each) => told(each) !== undefined);
    const face = router && told(router);
    if (!face) return null;
    if (face.flags === 'managed') return this.leases.give6(router.box.device.serial, face, mac);
    const own = selfMadeAddress(parsePrefix(face.address)!, parseMac(mac)!);
    return own && formatIp(own);
  }

  /** The service a box runs in a VLAN, or has run for it by a server it asks. */
  private serviceAt(box: Box, vlan: number): AddressServiceDocument | null {
    const own = box.document.addressServices?.find((each) => each.vlan === vlan);
    if (own) return own;
    if (box.document.kind !== 'gateway') return null;
    const relay = box.document.relays?.find((each) => each.vlan === vlan);
    const face = box.document.interfaces.find((each) => each.vlan === vlan);
    if (!relay || !face || !this.file.addressServers?.includes(relay.server)) return null;
    const server = parseIp(relay.server)!;
    const near = box.document.interfaces.some((each) => contains(parsePrefix(each.address)!, server));
    return near || (!isPrivate(relay.server) && this.hasUplink(box)) ? outsideService(vlan, face.address) : null;
  }

  /**
   * The first gateway that a spot's frames reach that has an interface in the VLAN it is reached in.
   * @param past a box that the flood does not enter.
   */
  gatewayFrom(start: Spot, past?: Box): Spot | null {
    return this.plant.firstReached(start, hasFace, past);
  }

  /** The switches that a spot's frames pass on their way to a box, both ends included where they are switches. */
  wayTo = (start: Spot, end: Box): Box[] => switchesOf(this.plant.way(start, ({ box }) => box === end));

  /** Whether anything of a gateway gets out to the internet. */
  hasUplink = (box: Box): boolean => this.paths.of(box)?.works() ?? false;

  private changed(box: Box): void {
    this.hanging.settle(box.island);
    this.onAir.roam(box.island);
    const touched = [...box.island, ...this.tunnels.carriersTo(box.island)];
    this.listener(touched.map((each) => each.device.serial));
  }

  box = (serial: string): Box => this.plant.box(serial);

  /** A box by the name that it was given. */
  named = (name: string): Box | undefined =>
    this.plant.serials.map(this.box).find(({ document }) => document.device.name === name);
}

/** Whether a spot is inside a gateway that has an address in the VLAN. */
const hasFace = ({ box: { document }, vlan }: Spot): boolean =>
  document.kind !== 'ap' && interfacesOf(document).some((face) => face.vlan === vlan);

const switchesOf = (way: readonly Spot[] | null): Box[] =>
  (way ?? []).map(({ box }) => box).filter(({ document }) => document.kind === 'switch');
