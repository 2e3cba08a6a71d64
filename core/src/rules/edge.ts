import type { IpRange, IpVersion } from '../address';
import { answeredRule, REPLIES } from './flow';
import { addressSpans, boxesOf, firstMatch, type Packet, type PacketRule } from './packet-rule';
import { PROTOCOL, serviceOf } from './service';
import { PORTED_END, SERVICE_END, type Diagram, type PacketSpace } from './space';

/** A way in which clients of a segment are attached, with the lists of an AP that their packets meet. */
export interface Attachment {
  /** What it is known by: this way alone first, then what it has in common with others. */
  readonly keys: readonly string[];
  readonly name: string;
  /** Of packets from its clients, and to them; null on cables. */
  readonly air: { readonly from: readonly PacketRule[]; readonly to: readonly PacketRule[] } | null;
  /** Whether its packets go to the gateway in a tunnel, so that no switch sees them. */
  readonly tunnelled?: boolean;
}
/** A segment's clients. */
export interface EdgeHome {
  readonly addresses: readonly IpRange[];
  readonly attachments: readonly Attachment[];
}
/** The lists at switches and APs. They judge each packet by itself, its answer too; what none matches passes. */
export interface Edge {
  readonly switches: readonly PacketRule[];
  readonly homes: readonly EdgeHome[];
}

/** Whose packets are meant: those of some client or of every one, wherever it is attached or where a key says. */
export interface Whose extends Attached {
  readonly who: 'some' | 'every';
}
/** Attachments of a packet's ends, by a key of theirs, where only some are meant. */
export interface Attached {
  readonly from?: string;
  readonly to?: string;
}

/** A list that a packet meets on its way. */
export interface EdgeStop {
  readonly at: 'switches' | 'aps';
  /** Of APs: the SSID. */
  readonly name: string;
  /** The rule that decides; null where none matches. */
  readonly rule: PacketRule | null;
  readonly passed: boolean;
}

/** The packets a rule matches. */
export const matchedIn = (space: PacketSpace, rule: PacketRule): Diagram =>
  boxesOf(rule, space.version).reduce<Diagram>((sum, box) => space.unite(sum, space.box(box)), space.none);

type Side = 'from' | 'to';
const laid = new WeakMap<PacketSpace, WeakMap<readonly PacketRule[], Diagram>>();

/** The packets that a list lets pass; the first rule that matches decides. */
export function passing(space: PacketSpace, rules: readonly PacketRule[]): Diagram {
  let known = laid.get(space);
  if (!known) laid.set(space, (known = new WeakMap<readonly PacketRule[], Diagram>()));
  let made = known.get(rules);
  if (made === undefined) {
    const [denied, allowed] = [1, 2];
    const decided = rules.reduceRight<Diagram>((below, rule) => {
      const value = rule.verdict === 'allow' ? allowed : denied;
      const own = boxesOf(rule, space.version).reduce<Diagram>(
        (sum, box) => space.overlay(sum, space.box(box, value)),
        space.none,
      );
      return space.overlay(own, below);
    }, space.none);
    made = space.map(decided, (value) => Number(value !== denied));
    known.set(rules, made);
  }
  return made;
}

/** Packets from ports that clients take for themselves (RFC 6335 §6), and those without ports that ask for an answer. */
export const begunByClients = (space: PacketSpace): Diagram =>
  space.unite(
    space.box([null, null, [{ first: 0, end: PORTED_END }], [{ first: 49_152, end: 65_536 }]]),
    space.box([null, null, [...requests(space.version), { first: OTHER_PROTOCOLS, end: SERVICE_END }], null]),
  );

/** Where the protocols begin on the axis of services that are neither TCP, UDP nor ICMP. */
const OTHER_PROTOCOLS = 196_608;
const requests = (version: IpVersion): { first: number; end: number }[] =>
  [...REPLIES[version].keys()].map((type) => {
    const first = serviceOf(version === 4 ? PROTOCOL.icmp : PROTOCOL.icmp6, type * 256, version === 6);
    return { first, end: first + 256 };
  });

const answered = new WeakMap<readonly PacketRule[], readonly PacketRule[]>();
/** The list that lets a packet pass exactly when the given one lets its answer pass. */
function answeredList(rules: readonly PacketRule[]): readonly PacketRule[] {
  let made = answered.get(rules);
  if (!made) answered.set(rules, (made = rules.map(answeredRule)));
  return made;
}

/** What lists at the edge leave of a set of packets. */
export class EdgePassage {
  constructor(readonly edge: Edge) {}

  /** Of `set`, the packets that the lists let pass. */
  through(space: PacketSpace, set: Diagram, whose: Whose): Diagram {
    const across = space.intersect(this.sides(space, 'from', whose), this.sides(space, 'to', whose));
    const passed = space.intersect(set, across);
    const near = this.near(space, whose);
    return near === space.none ? passed : space.unite(passed, space.intersect(set, near));
  }

  /** Of `set`, the packets whose answers the lists let pass as well; what no client begins is not answered. */
  answered(space: PacketSpace, set: Diagram, whose: Whose): Diagram {
    const swapped = new EdgePassage({
      switches: answeredList(this.edge.switches),
      homes: this.edge.homes.map(({ addresses, attachments }) => ({
        addresses,
        attachments: attachments.map(({ air, ...rest }) => ({
          ...rest,
          air: air && { from: answeredList(air.to), to: answeredList(air.from) },
        })),
      })),
    });
    const begun = space.intersect(set, begunByClients(space));
    return space.unite(space.subtract(set, begun), swapped.through(space, begun, whose));
  }

  /**
   * The lists that one packet meets before the gateway and behind it. Switches have one list: it judges once.
   * @param whose attachments by key; where one is not named, the first there is.
   */
  stops(packet: Packet, whose: Attached): Readonly<Record<'before' | 'after', EdgeStop[]>> {
    const { version, source, destination } = packet;
    const [home, there] = [this.homeAt(version, source), this.homeAt(version, destination)];
    const [from, to] = [attachmentOf(home, whose.from), attachmentOf(there, whose.to)];
    const stop = (at: EdgeStop['at'], name: string, rules: readonly PacketRule[] | undefined): EdgeStop[] => {
      if (!rules || rules.length === 0) return [];
      const rule = firstMatch(rules, packet);
      return [{ at, name, rule, passed: rule?.verdict !== 'deny' }];
    };
    const switched = stop('switches', '', this.edge.switches);
    // Of two clients of one segment on the air, one AP may serve both.
    const near = home !== undefined && home === there && from?.air && to?.air;
    const [first, last] = [home && !near && !from?.tunnelled, there && !near && !to?.tunnelled];
    return {
      before: [...stop('aps', from?.name ?? '', from?.air?.from), ...(first ? switched : [])],
      after: [...(!first && last ? switched : []), ...stop('aps', to?.name ?? '', to?.air?.to)],
    };
  }

  /** The lists that some of a set of packets meet, and which of them. */
  listsMet(
    space: PacketSpace,
    about: Diagram,
    attached: Attached,
  ): { readonly at: EdgeStop['at']; readonly rules: readonly PacketRule[]; readonly met: Diagram }[] {
    const { switches, homes } = this.edge;
    const whose: Whose = { who: 'some', ...attached };
    const sides = (['from', 'to'] as const).flatMap((side) =>
      homes.map((home) => ({ side, home, met: space.intersect(about, this.ownOf(space, side, home.addresses)) })),
    );
    const inside = sides.reduce<Diagram>((sum, { met }) => space.unite(sum, met), space.none);
    const lists = sides.flatMap(({ side, home, met }) =>
      home.attachments
        .filter((each) => each.air && isMeant(each, side, whose))
        .map(({ air }) => ({ at: 'aps' as const, rules: air![side], met })),
    );
    return [...lists, { at: 'switches' as const, rules: switches, met: inside }].filter(
      ({ rules, met }) => rules.length > 0 && met !== space.none,
    );
  }

  /** Every pair of attachments that a packet's ends may have. */
  pairs({ version, source, destination }: Packet): Attached[] {
    const keys = (value: bigint): (string | undefined)[] => {
      const found = this.homeAt(version, value)?.attachments.map(({ keys: [key] }) => key!) ?? [];
      return found.length > 0 ? found : [undefined];
    };
    return keys(source).flatMap((from) =>
      keys(destination).map((to) => ({ ...(from === undefined ? {} : { from }), ...(to === undefined ? {} : { to }) })),
    );
  }

  private homeAt(version: IpVersion, value: bigint): EdgeHome | undefined {
    return this.edge.homes.find(({ addresses }) =>
      addresses.some((range) => range.version === version && value >= range.first && value <= range.last),
    );
  }

  /** Packets whose client at one end is let through by what it meets there. */
  private sides(space: PacketSpace, side: Side, whose: Whose): Diagram {
    const bySwitches = passing(space, this.edge.switches);
    return this.edge.homes.reduce<Diagram>((sum, { addresses, attachments }) => {
      const own = this.ownOf(space, side, addresses);
      if (own === space.none) return sum;
      const meant = attachments.filter((each) => isMeant(each, side, whose));
      const sets = meant.map(({ air, tunnelled }) => {
        const onCables = tunnelled ? space.all : bySwitches;
        return air ? space.intersect(onCables, passing(space, air[side])) : onCables;
      });
      const pass = together(space, sets, whose);
      return space.subtract(sum, space.subtract(own, pass));
    }, space.all);
  }

  /** Packets between clients that one AP may serve both: they meet its lists and no switch. */
  private near(space: PacketSpace, whose: Whose): Diagram {
    if (whose.who === 'every' || this.edge.switches.length === 0) return space.none;
    return this.edge.homes.reduce<Diagram>((sum, { addresses, attachments }) => {
      const set = (['from', 'to'] as const).reduce<Diagram>((left, side) => {
        const meant = attachments.filter((each) => each.air && isMeant(each, side, whose));
        const sets = meant.map(({ air }) => passing(space, air![side]));
        const own = this.ownOf(space, side, addresses);
        return space.intersect(left, space.intersect(own, sets.length > 0 ? together(space, sets, whose) : space.none));
      }, space.all);
      return space.unite(sum, set);
    }, space.none);
  }

  private ownOf(space: PacketSpace, side: Side, addresses: readonly IpRange[]): Diagram {
    const spans = addressSpans(space.version, addresses);
    if (!spans || spans.length === 0) return space.none;
    return space.box(side === 'from' ? [spans, null, null, null] : [null, spans, null, null]);
  }
}

const attachmentOf = (home: EdgeHome | undefined, key: string | undefined): Attachment | undefined =>
  home?.attachments.find(({ keys }) => key !== undefined && keys.includes(key)) ?? home?.attachments[0];

function isMeant({ keys }: Attachment, side: Side, whose: Whose): boolean {
  const wanted = whose[side];
  return wanted === undefined || keys.includes(wanted);
}

/** What some of the ways let through, or all of them; nobody is attached where there is none, and nothing stops them. */
function together(space: PacketSpace, sets: readonly Diagram[], whose: Whose): Diagram {
  const [first, ...more] = sets;
  if (first === undefined) return space.all;
  return more.reduce((a, b) => (whose.who === 'every' ? space.intersect(a, b) : space.unite(a, b)), first);
}
