import type { IpRange, IpVersion } from '../address';
import type { Decider } from './decider';
import { addressSpans, type Packet, type Verdict } from './packet-rule';
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

/** What gets from where to where: by rules, and among neighbours without them. */
export class Passage {
  private readonly key: string;
  private readonly sets: Partial<Record<IpVersion, Diagram>> = {};

  constructor(
    readonly decider: Decider,
    private readonly neighbourhoods: readonly Neighbourhood[],
    readonly otherwise: Verdict,
  ) {
    this.key = neighbourhoods
      .map(({ addresses, apart }) => `${addresses.map(({ first, last }) => `${first}-${last}`).join()} ${apart}`)
      .join(';');
  }

  /** The packets that get through. */
  allowed(version: IpVersion): Diagram {
    const known = this.sets[version];
    if (known !== undefined) return known;
    const byRule = this.decider.allowed(version, this.otherwise);
    return (this.sets[version] = this.neighbourhoods.length === 0 ? byRule : this.withNeighbours(version, byRule));
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
