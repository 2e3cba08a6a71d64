import type { IpRange, IpVersion } from '../address';
import type { Decider } from './decider';
import { answerTo } from './flow';
import { EdgePassage, type Attached, type Edge, type Whose } from './edge';
import { Quarters, type Quarter } from './quarter';
import { addressSpans, type Packet, type PacketRule, type Verdict } from './packet-rule';
import { shapeOf, type Shape } from './shape';
import type { Diagram, PacketSpace } from './space';

/** Addresses whose frames to each other pass no place that decides by rules. */
export interface Neighbourhood {
  readonly addresses: readonly IpRange[];
  /** Whether they are kept from each other nevertheless. */
  readonly apart: boolean;
}

/** Values of what neighbours do. */
const [APART, TOGETHER] = [1, 2];

interface Laid {
  readonly key: string;
  readonly inside: Diagram;
  /** Of rules' sets, and of both laid over each other. */
  readonly said: (diagram: Diagram) => Diagram;
  readonly through: (diagram: Diagram) => Diagram;
}
const laid = new WeakMap<PacketSpace, Laid>();

/** A place that decides a packet. */
export interface PassageStop {
  readonly at: 'aps' | 'switches' | 'gateway' | 'within' | 'router' | 'nowhere';
  /** Of APs: the SSID; of a router beside the gateway: its name; of what nobody routes: which it is. */
  readonly name: string;
  readonly rule: PacketRule | null;
  readonly passed: boolean;
  /** Of a router beside the gateway: why it is stopped, where no rule does that. */
  readonly why?: string;
}

/** What gets from where to where: by the gateway's rules and the lists at switches and APs, and among neighbours without the gateway. */
export class Passage {
  private readonly key: string;
  private readonly sets = new Map<string, Diagram>();
  private made: Shape | undefined;
  /** The lists at switches and APs; null where there are none. */
  readonly edge: EdgePassage | null;
  /** What routers beside the gateway make of packets; null where there are none. */
  readonly quarters: Quarters | null;

  /** @param grounds addresses that questions are asked about: its shape knows where they lie. */
  constructor(
    readonly decider: Decider,
    private readonly neighbourhoods: readonly Neighbourhood[],
    readonly otherwise: Verdict,
    edge: Edge | null = null,
    private readonly grounds: readonly (readonly IpRange[])[] = [],
    quarters: readonly Quarter[] = [],
  ) {
    this.quarters = quarters.length > 0 ? new Quarters(quarters) : null;
    this.edge = edge && new EdgePassage(edge);
    const aired = (edge?.homes ?? []).flatMap(({ attachments }) => attachments.flatMap(({ air }) => air ?? []));
    this.lists = [
      ...new Set([
        decider.list,
        edge?.switches ?? [],
        ...quarters.map(({ rules }) => rules),
        ...aired.flatMap(({ from, to }) => [from, to]),
      ]),
    ];
    this.key = neighbourhoods
      .map(({ addresses, apart }) => `${addresses.map(({ first, last }) => `${first}-${last}`).join()} ${apart}`)
      .join(';');
  }

  /** The packets that get through. @param whose clients, where lists tell them apart. */
  allowed(version: IpVersion, whose: Whose = { who: 'some' }): Diagram {
    const { edge } = this;
    const all = this.once(`${version}`, () => {
      const byGateway = this.decider.allowed(version, this.otherwise);
      const byRule = this.quarters?.through(this.decider.space(version), byGateway) ?? byGateway;
      return this.neighbourhoods.length === 0 ? byRule : this.withNeighbours(version, byRule);
    });
    if (!edge) return all;
    const key = `${version} ${JSON.stringify(whose)}`;
    return this.once(key, () => edge.through(this.decider.space(version), all, whose));
  }

  /** The packets that get through and whose answers do: a gateway remembers, lists judge the answer by itself. */
  answered(version: IpVersion, whose: Whose = { who: 'every' }): Diagram {
    const { edge } = this;
    const there = this.allowed(version, whose);
    if (!edge) return there;
    const key = `${version} ${JSON.stringify(whose)} answered`;
    return this.once(key, () => edge.answered(this.decider.space(version), there, whose));
  }

  /** The places that decide a packet, in order, up to the first that stops it. @param whose attachments of its ends. */
  stops(packet: Packet, whose: Attached = {}): PassageStop[] {
    const { before = [], after = [] } = this.edge?.stops(packet, whose) ?? {};
    const among = this.among(packet);
    const middle: readonly PassageStop[] =
      among === null ? this.routed(packet) : [{ at: 'within', name: '', rule: null, passed: !among }];
    return upToStop([...before, ...middle, ...after]);
  }

  /** The routers that decide a packet, the gateway among them where it meets that one. */
  private routed(packet: Packet): readonly PassageStop[] {
    const way = this.quarters?.wayOf(packet) ?? null;
    const beside = way && {
      before: way.before.map(({ shut, ...stop }): PassageStop => ({ at: shut ? 'nowhere' : 'router', ...stop })),
      after: way.after.map(({ shut, ...stop }): PassageStop => ({ at: shut ? 'nowhere' : 'router', ...stop })),
    };
    if (beside && !way.byGateway) return [...beside.before, ...beside.after];
    const rule = this.decider.decide(packet);
    const own: PassageStop = { at: 'gateway', name: '', rule, passed: (rule?.verdict ?? this.otherwise) === 'allow' };
    return [...(beside?.before ?? []), own, ...(beside?.after ?? [])];
  }

  /** What stops a packet for some of the clients it may be from and to; null where it gets through for all. */
  stopped(packet: Packet): PassageStop | null {
    for (const whose of this.edge?.pairs(packet) ?? [{}]) {
      const last = this.stops(packet, whose).at(-1);
      if (last && !last.passed) return last;
    }
    return null;
  }

  /** The places that decide the answer to a packet that got through; none where it asks for no answer. @param whose attachments of the answer's ends. */
  returns(packet: Packet, whose: Attached = {}): PassageStop[] {
    const back = answerTo(packet);
    if (!back) return [];
    const { before = [], after = [] } = this.edge?.stops(back, whose) ?? {};
    const passed = (stop: Pick<PassageStop, 'at' | 'name'>): PassageStop => ({ ...stop, rule: null, passed: true });
    const middle =
      this.among(packet) === null
        ? this.routed(packet)
            .map(({ at, name }) => passed({ at, name }))
            .reverse()
        : [passed({ at: 'within', name: '' })];
    return upToStop([...before, ...middle, ...after]);
  }

  /** The list that stops the answer to a packet for some of those it may be from and to. */
  cutAnswer(packet: Packet): PassageStop | null {
    for (const { from, to } of this.edge?.pairs(packet) ?? []) {
      const back = { ...(to === undefined ? {} : { from: to }), ...(from === undefined ? {} : { to: from }) };
      const last = this.returns(packet, back).at(-1);
      if (last && !last.passed) return last;
    }
    return null;
  }

  /** Every list there is, the gateway's first, then that of the switches, then those of APs; each once. */
  readonly lists: readonly (readonly PacketRule[])[];

  /** What the passage has in common with those of other sites: answers that hold for one hold for all of its shape. */
  get shape(): Shape {
    return (this.made ??= shapeOf({
      lists: this.lists,
      ranges: [
        ...this.neighbourhoods.map(({ addresses }) => addresses),
        ...this.grounds,
        ...(this.edge?.edge.homes ?? []).map(({ addresses }) => addresses),
        ...(this.quarters?.list ?? []).flatMap(({ addresses, beyond, among }) => [addresses, beyond, among]),
      ],
      more: JSON.stringify([
        this.otherwise,
        this.neighbourhoods.map(({ apart }) => apart),
        this.edge?.edge.homes.map(({ attachments }) =>
          attachments.map(({ keys, air, tunnelled }) => [
            keys,
            air ? [this.lists.indexOf(air.from), this.lists.indexOf(air.to)] : null,
            tunnelled ?? false,
          ]),
        ) ?? null,
        this.grounds.length,
        ...(this.quarters?.list ?? []).map(({ rules, shut, apart }) => [this.lists.indexOf(rules), shut, apart]),
      ]),
    }));
  }

  private once(key: string, make: () => Diagram): Diagram {
    let made = this.sets.get(key);
    if (made === undefined) this.sets.set(key, (made = make()));
    return made;
  }

  /** Whether both ends of a packet are neighbours, and then whether they are kept apart; null where rules decide. */
  among({ version, source, destination }: Packet): boolean | null {
    const holds = ({ addresses }: Neighbourhood, at: bigint): boolean =>
      addresses.some((range) => range.version === version && at >= range.first && at <= range.last);
    const found = this.neighbourhoods.find((each) => holds(each, source) && holds(each, destination));
    return found?.apart ?? null;
  }

  private withNeighbours(version: IpVersion, byRule: Diagram): Diagram {
    const space = this.decider.space(version);
    let own = laid.get(space);
    if (own?.key !== this.key) {
      const inside = this.neighbourhoods.reduce<Diagram>((sum, { addresses, apart }) => {
        const spans = addressSpans(version, addresses);
        if (!spans || spans.length === 0) return sum;
        return space.overlay(sum, space.box([spans, spans, null, null], apart ? APART : TOGETHER));
      }, space.none);
      own = {
        key: this.key,
        inside,
        said: space.mapper((value) => (value > 0 ? TOGETHER : APART)),
        through: space.mapper((value) => Number(value === TOGETHER)),
      };
      laid.set(space, own);
    }
    return own.through(space.overlay(own.inside, own.said(byRule)));
  }
}

function upToStop(stops: readonly PassageStop[]): PassageStop[] {
  const end = stops.findIndex(({ passed }) => !passed);
  return end < 0 ? [...stops] : stops.slice(0, end + 1);
}
