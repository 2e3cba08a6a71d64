import { PROBE_MAC } from '@iron-lattice/core/bench';
import { formatMac, parseIp } from '@iron-lattice/core/address';
import { asksWho, type SsidDocument } from '@iron-lattice/core/document';
import type { Credentials } from '@iron-lattice/core/radius';
import { joinsOnSsid } from '@iron-lattice/core/lattice';
import { flowBetween } from '@iron-lattice/core/paths';
import type { ClientReport, ProbeTry } from '@iron-lattice/core/line';
import type { Box, Spot } from './box';
import { Arriving, CLIENT_PORT, packetOf } from './arriving';
import type { Got, Wanted } from './asked';
import { Beyond, type End } from './beyond';
import type { Network } from './network';
import { entersSsid, keyTurnedAwayWords, turnedAwayWords } from './door';
import { askedKey, ringAnswer } from './keys';
import { isShut } from './plant';
import { atPort } from './port-door';
import type { Namer } from './named';
import { heldBy, OnTheWay, type Place } from './on-the-way';
import { isOfInside, isPrivate, isSix, noWay } from './outside';
import { answersFrom, handedOn } from './handed-on';
import { facesOf, innerWay, isOnLink } from './routers-on-way';
import { flowTo, hopsTo } from './tracing';
import type { Policing } from './policing';
import { spotOf } from './tunnels';
import type { WorldClient } from './world-file';

/** What somebody who tried something is told. */
export interface Tried {
  readonly ok: boolean;
  readonly text: string;
  readonly stoppedBy?: string;
}

/** Who asks: where its frames begin, its address, the gateway it sends through, and whether it is kept from its neighbours. */
interface Asker {
  readonly gateway: Spot | null;
  readonly address: string | null;
  /** Its address of IPv6; null or absent: it has none. */
  readonly address6?: string | null;
  readonly apart: boolean;
  readonly at: Place;
}
/** Where a pretend client is put. */
export interface Seat {
  readonly ssid?: string;
  readonly port?: string;
  /** Whose MAC address it takes. */
  readonly mac?: string;
  /** Id of the key of a ring that it gives; or the key itself, where servers name those. */
  readonly key?: string;
  readonly gives?: string;
  /** Who it says to be. */
  readonly entry?: Credentials;
}

const NOBODY: End = { mac: undefined, serial: undefined, vlan: undefined };
const SESSIONS_A_ROUND = 4;
/** What hosts on the internet offer. */
const OFFERED_OUTSIDE = new Set(['tcp 80', 'tcp 443', 'udp 53', 'udp 123']);
const OFFERED_BY_GATEWAYS = new Set(['tcp 53', 'udp 53', 'udp 67']);

/** What boxes and clients ask of the network: each packet that crosses a gateway is decided by the policy it runs. */
export class Asking {
  private readonly hosts = new Map<string, ReadonlySet<string>>();
  private readonly names = new Map<string, string>();
  private nextPort = CLIENT_PORT;

  private readonly way: OnTheWay;
  private readonly arriving: Arriving;
  private readonly beyond: Beyond;

  constructor(
    private readonly world: Network,
    policing: Policing,
  ) {
    this.way = new OnTheWay(world, policing);
    this.arriving = new Arriving(world.paths);
    this.beyond = new Beyond(world, this.way, {
      endOf: (...asked) => this.endOf(...asked),
      placeAt: this.placeAt,
      byRoute: (...asked) => this.byRoute(...asked) !== null,
      answered: (...asked) => this.answered(...asked),
    });
  }

  /** Whether a box gets an echo back from an address: a gateway on its way, a neighbour, or anything outside. */
  ping(serial: string, target: string): boolean {
    return this.get(this.asker(serial), target, { protocol: 'icmp' }).ok;
  }

  /** What a box gets that asks for something at an address. */
  from = (serial: string, target: string, wanted: Wanted): Got => this.get(this.asker(serial), target, wanted);

  /** Somebody on the internet, with a name, offers more than others there do. */
  host(name: string, address: string, offers: readonly string[]): void {
    this.names.set(name.toLowerCase(), address);
    this.hosts.set(address, new Set(offers));
  }

  /** The routers between a box and an address. @returns whether somebody answers at the end. */
  trace(serial: string, target: string): { hops: string[]; arrived: boolean } {
    return this.traced(this.asker(serial), target);
  }

  /** What the name server that a box was told of says of a name. `server`: null when none answers. */
  lookUp(serial: string, name: string): { server: string | null; address: string | null } {
    const { address, vlan } = this.world.box(serial).document.management;
    return this.looked(this.asker(serial), vlan, name, address?.dns[0]);
  }

  /** What a pretend client gets to hear that tries something. */
  try(serial: string, { does, protocol = 'tcp', number = 443, ...at }: ProbeTry, target: string): Tried {
    if (at.port !== undefined && isShut(this.world.box(serial), at.port))
      return { ok: false, text: `Port ${at.port} is not in use at this time.` };
    const seat = this.seat(serial, at);
    if (!seat) return { ok: false, text: this.asksForMore(serial, at) ?? 'Nobody is let in there.' };
    if (seat.address === null && !isSix(target))
      return { ok: false, text: `Nobody gives addresses on VLAN ${seat.vlan}.` };
    const found = parseIp(target) ? { address: target } : this.looked(seat, seat.vlan, target);
    if (does === 'lookup' || found.address === null) {
      const server = 'server' in found ? found.server : null;
      const text = found.address
        ? `${target} is ${found.address}${server ? `, says ${server}` : ''}.`
        : server
          ? `${server} knows no ${target}.`
          : 'No name server answers.';
      return { ok: found.address !== null, text: `From ${seat.address}: ${text}` };
    }
    if (does === 'trace') {
      const { hops, arrived } = this.traced(seat, found.address);
      const lines = hops.map((hop, i) => `${i + 1}  ${hop}`);
      if (!arrived) lines.push(`${hops.length + 1}  nobody answers`);
      return { ok: arrived, text: lines.join('\n') };
    }
    const wanted: Wanted = does === 'ping' ? { protocol: 'icmp' } : { protocol, port: number };
    const { ok, why, stoppedBy } = this.get(seat, found.address, wanted);
    const own = isSix(found.address) ? seat.address6 : seat.address;
    return {
      ok,
      text: `${own === null ? '' : `From ${own}: `}${why}`,
      ...(stoppedBy === undefined ? {} : { stoppedBy }),
    };
  }

  /** Whoever has nobody’s MAC address is known by no server either, and none is asked about it. */
  private namerFor(mac: string | undefined): Namer {
    const { namer } = this.world;
    if (mac !== undefined) return namer;
    const prove: Namer['prove'] = (...asked) => namer.prove(...asked);
    return { ...namer, of: () => undefined, whyNot: () => ({ why: 'rejected' }), prove };
  }

  /** What a seat would have to give or say, in a sentence; null where that is not what it lacks. */
  private asksForMore(serial: string, { ssid, port, key, gives, entry, mac }: Seat): string | null {
    const box = this.world.box(serial);
    const { document } = box;
    const sent = document.kind === 'ap' ? document.ssids.find(({ name }) => name === ssid) : undefined;
    if (sent && asksWho(sent.security)) {
      if (!entry) return `“${ssid}” asks who it is, and nobody says.`;
      return turnedAwayWords(
        entry.user,
        entersSsid(box, sent, { mac: mac ?? PROBE_MAC, enters: entry }, this.world.namer),
      );
    }
    const socket = document.ports.find(({ name }) => name === port);
    const { unknown } =
      (socket && entry && atPort(box, socket, { mac: mac ?? PROBE_MAC, enters: entry }, this.namerFor(mac))) ?? {};
    if (unknown && entry) return turnedAwayWords(entry.user, { why: unknown.why, turnedAway: unknown });
    if (!sent?.ring) return null;
    if (sent.ring.asked && gives !== undefined) {
      const says = { mac: mac ?? PROBE_MAC, passphrase: gives };
      const given = askedKey(box, { ...sent, ring: sent.ring }, says, this.world.namer);
      return keyTurnedAwayWords(given);
    }
    return (sent.ring.asked ? gives : key) === undefined
      ? `“${ssid}” asks for a key of its ring.`
      : `“${ssid}” does not let this key in here.`;
  }

  /** What an AP makes of the key that a pretend client gives. */
  private keyAt(
    box: Box,
    sent: SsidDocument,
    {
      key,
      gives,
      mac,
    }: { readonly key?: string | undefined; readonly gives?: string | undefined; readonly mac: string },
  ): ReturnType<typeof ringAnswer> {
    if (!sent.ring?.asked) return ringAnswer(box, sent, key, mac);
    const passphrase = gives === undefined ? {} : { passphrase: gives };
    const { why, led } = askedKey(box, { ...sent, ring: sent.ring }, { mac, ...passphrase }, this.world.namer);
    return { ok: why === undefined, ...led };
  }

  /** A pretend client on an SSID or a port of a box; null where there is no such place, or it is let in by nobody. */
  seat(
    serial: string,
    { ssid, port, mac: taken, key, gives, entry }: Seat,
  ): (Asker & { readonly vlan: number }) | null {
    const box = this.world.box(serial);
    const { document } = box;
    if (!box.powered) return null;
    const sent =
      ssid !== undefined && document.kind === 'ap' ? document.ssids.find((each) => each.name === ssid) : null;
    const socket = port === undefined ? null : document.ports.find((each) => each.name === port);
    if (socket && isShut(box, socket.name)) return null;
    const given = sent?.ring ? this.keyAt(box, sent, { key, gives, mac: taken ?? PROBE_MAC }) : null;
    if (given && !given.ok) return null;
    const named =
      sent?.byClass && !given?.at && !given?.accessClass && !sent.ring?.asked && taken !== undefined
        ? this.world.namer.of(box, taken, sent.name)?.accessClass
        : undefined;
    const says = { mac: taken ?? PROBE_MAC, ...(entry ? { enters: entry } : {}) };
    const joined = sent
      ? asksWho(sent.security)
        ? entersSsid(box, sent, says, this.world.namer)
        : joinsOnSsid(document, sent, taken ?? null, given ?? undefined, named)
      : socket
        ? atPort(box, socket, says, this.namerFor(taken))
        : null;
    if (!joined || joined.vlan === null) return null;
    const { vlan, accessClass } = joined;
    const apart =
      [accessClass, sent, socket].some((each) => each?.isolated) || (socket?.apart?.includes(vlan) ?? false);
    const spot = spotOf(box, sent, vlan);
    // Every place has a client of its own, so that two do not share a lease.
    const digest = [...`${serial} ${ssid ?? ''} ${port ?? ''}`].reduce(
      (sum, char) => (sum * 31 + char.charCodeAt(0)) >>> 0,
      7,
    );
    const mac = taken ?? formatMac(0x0200_0000_0000n + BigInt(digest));
    const said = 'portal' in joined ? joined.portal : undefined;
    const asked = sent?.byClass && taken !== undefined ? this.world.namer.portalOf(box, taken) : undefined;
    const guest = heldBy(said ?? asked ?? sent?.portal, mac);
    const at = { ...spot, ...(sent ? { ssid: sent.name } : {}), classId: accessClass?.id, guest };
    const addresses = { address: this.world.lease(spot, mac), address6: this.world.address6(spot, mac) };
    return { gateway: this.world.gatewayFrom(spot), ...addresses, apart, vlan, at };
  }

  /** Asks for something at an address, as somebody who sits somewhere. */
  get(asker: Asker, target: string, wanted: Wanted): Got {
    const { gateway } = asker;
    const ip = parseIp(target);
    const address = ip?.version === 6 ? (asker.address6 ?? null) : asker.address;
    if (ip?.version === 6 && address === null) return { ok: false, why: 'It has no address of IPv6.' };
    if (!ip) return { ok: false, why: `${target} is no address.` };
    if (!gateway) return { ok: false, why: 'No gateway answers.' };
    const { path, stop: circle } = innerWay(this.world, gateway, target);
    const last = path.at(-1)!;
    const own = facesOf(last.box).includes(target);
    const end = own ? NOBODY : this.endOf(last.box, target);
    const near = path.length === 1 && end.vlan === gateway.vlan && !own;
    if (near && asker.apart)
      return { ok: false, why: 'Clients are kept from each other here.', stoppedBy: 'isolation' };
    const held = this.heldBack(asker, target, wanted);
    if (held) return held;
    const uplink = this.arriving.at(target);
    if (uplink?.box === last.box && address !== null)
      return this.comesIn(uplink, { address, at: asker.at, path }, target, wanted);
    const packet = address === null ? null : packetOf(address, target, wanted);
    const there = own ? null : this.placeAt(end);
    const stop = packet && this.way.stopped(asker.at, near ? [] : path, there, packet);
    if (stop) return stop;
    if (circle !== undefined) return { ok: false, why: circle };
    const back = address === null ? null : this.comesBack(path, there, address);
    return back ?? this.answered(last.box, address, target, wanted, own, end);
  }

  /** What becomes of an answer that goes another way than the question came: a gateway that never saw that drops it. */
  private comesBack(path: readonly Spot[], from: Place | null, to: string): Got | null {
    const home = from && this.world.gatewayFrom(from);
    if (!home || path.some(({ box }) => box === home.box)) return null;
    const back = innerWay(this.world, home, to).path;
    const strange = back.find(
      ({ box }) => box.document.kind === 'gateway' && !box.router && !path.some((each) => each.box === box),
    );
    if (!strange) return null;
    const { name } = strange.box.document.device;
    return { ok: false, why: `The answer comes back by ${name}, which saw no question.`, stoppedBy: name };
  }

  /** Something is asked for from outside, at whatever address. */
  knock(from: string, target: string, wanted: Wanted): Got {
    const uplink = this.arriving.at(target);
    return uplink
      ? this.comesIn(uplink, { address: from }, target, wanted)
      : { ok: false, why: `Nobody has ${target}.` };
  }

  /** What comes to an uplink’s own address. @param from with `at` and `path`: somebody behind the same gateway, and the routers up to it. */
  private comesIn(
    { box, port }: { readonly box: Box; readonly port: string },
    from: { readonly address: string; readonly at?: Place; readonly path?: readonly Spot[] },
    target: string,
    wanted: Wanted,
  ): Got {
    const arrival = this.arriving.arrives(box, port, from.address, target, wanted, from.at !== undefined);
    if ('got' in arrival) return arrival.got;
    const inner = innerWay(this.world, { box, vlan: 0 }, arrival.target).path;
    const last = inner.at(-1)!.box;
    const end = this.endOf(last, arrival.target);
    const routers = [...(from.path ?? inner.slice(0, 1)), ...inner.slice(1)];
    const stop = this.way.stopped(from.at ?? null, routers, this.placeAt(end), arrival.led.packet);
    const got = stop ?? this.answered(last, from.address, arrival.target, arrival.wanted, false, end);
    return { ...got, why: `${target} leads to ${arrival.target}. ${got.why}` };
  }

  /** Who has an address behind a router: of those it gave addresses to, or that send through it; else whoever else is on a link of it. */
  private endOf(box: Box, address: string): End {
    const isRouter = (each: Box): boolean => each !== box && facesOf(each).length > 0;
    const others = isOnLink(box, address) ? box.island.filter(isRouter) : [];
    for (const { device } of [box, ...others]) {
      const found = this.endBy(device.serial, address);
      if (found.vlan !== undefined) return found;
    }
    return this.endBy(box.device.serial, address);
  }

  private endBy(router: string, address: string): End {
    const lease = this.world.leasesOf(router).find((each) => each.address === address);
    const seen = this.world.seenFrom(router).find((each) => each.address === address)?.device.serial;
    const vlan = lease?.vlan ?? (seen === undefined ? undefined : this.world.box(seen).document.management.vlan);
    return { mac: lease?.mac, serial: seen, vlan };
  }

  private placeAt = ({ mac, serial, vlan }: End): Place | null => this.way.placeOf(mac, serial, vlan);

  /** What a portal makes of a packet of somebody that it holds; null: it lets it pass. */
  private heldBack({ at, gateway }: Asker, target: string, { protocol, port }: Wanted): Got | null {
    const { guest } = at;
    if (!guest || this.world.guests.isIn(at.box, guest)) return null;
    if (protocol === 'tcp' && target === this.world.controller && this.world.guests.portOf(at.box) === port)
      return null;
    const asksNames = (protocol === 'udp' || protocol === 'tcp') && port === 53;
    if (asksNames && gateway && target === this.nameServer(gateway)) return null;
    if (this.world.guests.inGarden(guest.portal, target)) return null;
    const { name } = guest.portal;
    const why = `Held back by ${at.box.document.device.name}: “${name}” has not let ${guest.mac} in.`;
    return { ok: false, why, stoppedBy: name };
  }

  /** The name server that clients behind a gateway are told of. */
  private nameServer(gateway: Spot): string | null {
    const { document } = gateway.box;
    return (
      (document.addressServices ?? []).find((each) => each.vlan === gateway.vlan)?.dns[0] ?? this.world.faceOf(gateway)
    );
  }

  /** What somebody gets who is behind a gateway of others, and asks for something on this side of a tunnel. */
  fromFar = (name: string, from: string, target: string, wanted: Wanted): Got =>
    this.beyond.fromFar(name, from, target, wanted);

  /** Names that the world knows, with their addresses. */
  *known(): Iterable<readonly [name: string, address: string]> {
    yield* Object.entries(this.world.file.names ?? {});
    yield* this.names;
  }

  /** A client, as somebody who asks. */
  clientAsks(client: WorldClient, { vlan, address }: Pick<ClientReport, 'vlan' | 'address'>): Asker {
    const at = this.way.placeOf(client.mac, undefined, vlan)!;
    return { gateway: this.world.gatewayFrom(at), address, apart: false, at };
  }

  private answered(
    gateway: Box,
    from: string | null,
    target: string,
    wanted: Wanted,
    own: boolean,
    { mac, serial }: End,
  ): Got {
    const { protocol, port } = wanted;
    const offers = (offered: ReadonlySet<string>): Got => {
      const ok = protocol === 'icmp' || offered.has(`${protocol} ${port}`);
      return { ok, why: ok ? `${target} answers.` : `${target} is there and offers nothing on ${protocol} ${port}.` };
    };
    if (own) return offers(OFFERED_BY_GATEWAYS);
    if (mac !== undefined) {
      const client = this.world.file.clients.find((each) => each.mac === mac);
      return offers(new Set(client?.offers ?? []));
    }
    if (serial !== undefined) return offers(new Set());
    const beyond =
      this.beyond.across(gateway, from, target, wanted) ?? this.beyond.byPact(gateway, from, target, wanted);
    if (beyond) return beyond;
    const byRoute = this.byRoute(gateway, target, wanted);
    if (byRoute) return byRoute;
    if (isPrivate(target)) return { ok: false, why: `Nobody has ${target}.` };
    if (isOfInside(gateway, target)) return { ok: false, why: `Nobody answers at ${target}.` };
    if (gateway.router?.ownWayOut) return offers(this.hosts.get(target) ?? OFFERED_OUTSIDE);
    const way = this.wayOut(gateway, from, target, wanted);
    if (!way.ok) return way;
    const there = this.arriving.at(target);
    if (there && way.as !== null) return this.comesIn(there, { address: way.as }, target, wanted);
    // The controller’s portal is asked where its boxes say that it is.
    const ports = target === this.world.controller ? this.world.guests.ports() : [];
    return offers(new Set([...(this.hosts.get(target) ?? OFFERED_OUTSIDE), ...ports.map((each) => `tcp ${each}`)]));
  }

  /** What becomes of what a gateway has a route for that leads by no uplink; null: there is none. */
  private byRoute(gateway: Box, target: string, wanted: Wanted): Got | null {
    const told = this.world.paths.of(gateway)?.toldTo(parseIp(target)!);
    if (!told || told.kind === 'uplink' || told.kind === 'tunnel' || told.kind === 'pact') return null;
    const neighbour = told.kind === 'neighbour' ? this.neighbourAt(gateway, told.address) : undefined;
    const by = `“${told.route.name}” of ${gateway.document.device.name}`;
    if (neighbour && this.world.isHushed(neighbour.mac)) {
      const why = `By ${by} it goes to ${told.kind === 'neighbour' ? told.address : ''}, which does not answer.`;
      return { ok: false, why, stoppedBy: told.route.name };
    }
    return handedOn(told.route, by, neighbour, target, wanted);
  }

  /** Whoever has an address behind a gateway, where that is a client. */
  private neighbourAt(gateway: Box, address: string): WorldClient | undefined {
    const { mac } = this.endOf(gateway, address);
    return mac === undefined ? undefined : this.world.file.clients.find((each) => each.mac === mac);
  }

  /** Whether somebody behind a gateway answers, or hands on to somebody who does. */
  handsOn = (gateway: Box, address: string, target: string): boolean =>
    answersFrom(this.neighbourAt(gateway, address), address, target, (mac) => this.world.isHushed(mac));

  /** Whether a packet gets out by the uplink that its gateway has it leave by. */
  private wayOut(
    gateway: Box,
    from: string | null,
    target: string,
    wanted: Wanted,
  ): Got & { readonly as: string | null } {
    const paths = this.world.paths.of(gateway);
    const flow = flowTo(from, target, wanted);
    const uplink = flow && paths?.by(flow);
    if (!paths || !uplink) return { ok: false, why: noWay(target), as: null };
    const { port: name } = uplink;
    if (!paths.carries(name)) return { ok: false, why: `It leaves by ${name}, where nothing gets through.`, as: null };
    if (flow.source.version === 6 && !paths.knows6(uplink, flow.source)) {
      const why = `${from} leaves by ${name}, whose provider knows no way back to it.`;
      return { ok: false, why, as: null };
    }
    const as = paths.seenAs(uplink, flow);
    return as !== null && (as === paths.addressOf(name) || !isPrivate(as))
      ? { ok: true, why: '', as }
      : { ok: false, why: `${name} does not translate ${from}: nobody outside can answer it.`, as: null };
  }

  /** The routers between somebody and an address. */
  traced(asker: Asker, target: string): { hops: string[]; arrived: boolean } {
    const arrived = this.get(asker, target, { protocol: 'icmp' }).ok;
    return { hops: hopsTo(this.world, asker, target, arrived), arrived };
  }

  /** What the name server that somebody was told of says of a name. */
  looked(asker: Asker, vlan: number, name: string, told?: string): { server: string | null; address: string | null } {
    const { gateway } = asker;
    if (!gateway) return { server: null, address: null };
    const server = told ?? this.nameServer({ box: gateway.box, vlan }) ?? this.world.faceOf(gateway);
    if (!server || !this.get(asker, server, { protocol: 'udp', port: 53 }).ok) return { server: null, address: null };
    const wanted = name.toLowerCase();
    const { path } = innerWay(this.world, gateway, this.world.controller);
    const out = path.at(-1)!.box;
    const known =
      (out.router?.ownWayOut ?? this.world.hasUplink(out))
        ? (this.world.file.names?.[wanted] ?? this.names.get(wanted))
        : undefined;
    return { server, address: known ?? null };
  }

  /** One round of what clients say to the world through a gateway: names, and what each is there for. */
  talk(gateway: Box, clients: readonly WorldClient[]): void {
    this.visited(gateway);
    const leases = this.world.leasesOf(gateway.device.serial);
    for (const client of clients) {
      const lease = leases.find((each) => each.mac === client.mac);
      const address = lease?.address ?? ('address' in client ? client.address : undefined);
      if (!lease || address === undefined) continue;
      const at = this.way.placeOf(client.mac, undefined, lease.vlan);
      if (!at) continue;
      const asker = { gateway: { box: gateway, vlan: lease.vlan }, address, apart: false, at };
      const face = this.world.faceOf(asker.gateway);
      if (face) this.get(asker, face, { protocol: 'udp', port: 53 });
      for (const talk of client.talks ?? ['198.51.100.81 tcp 443']) {
        const [target, protocol, port, mark] = talk.split(' ') as [string, Wanted['protocol'], string, string?];
        this.get(asker, target, { protocol, port: Number(port), ...(mark ? { dscp: Number(mark) } : {}) });
      }
      this.beginSessions(gateway, address);
    }
  }

  /** Whoever is outside and asks for something at uplinks of a gateway. */
  private visited(gateway: Box): void {
    for (const { from, at, asks } of this.world.file.knocks ?? []) {
      const [serial, port] = at.split(':') as [string, string];
      const target = serial === gateway.device.serial ? this.world.paths.of(gateway)?.addressOf(port) : null;
      const [protocol, number] = asks.split(' ') as [Wanted['protocol'], string];
      if (target) this.knock(from, target, { protocol, port: Number(number) });
    }
  }

  /** Whatever else a client is there for: a few sessions each round, to somebody on the internet. */
  private beginSessions(gateway: Box, address: string): void {
    const paths = this.world.paths.of(gateway);
    for (let i = 0; i < SESSIONS_A_ROUND; i++) {
      this.nextPort = this.nextPort >= 65_535 ? CLIENT_PORT + 1 : this.nextPort + 1;
      const target = `198.51.100.${1 + (this.nextPort % 250)}`;
      const flow = flowBetween(address, target, { protocol: 6, sourcePort: this.nextPort, port: 443 });
      if (flow) paths?.by(flow);
    }
  }

  private asker(serial: string): Asker {
    const box = this.world.box(serial);
    const at = { box, vlan: box.document.management.vlan };
    return { gateway: this.world.ownGateway(box), address: this.world.addressOf(serial), apart: false, at };
  }
}
