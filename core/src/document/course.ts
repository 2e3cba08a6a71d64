import type { CourseRule, Flow, PathNeeds, Steadiness } from '../paths';
import { matcherOf, packetRuleOf, type Packet, type PolicyRule } from '../rules';

/** How some packets leave a gateway. */
export interface CourseDocument extends Pick<PolicyRule, 'id' | 'name' | 'from' | 'to' | 'services'> {
  /** Marks that they bear (RFC 2474); absent: any. */
  readonly dscp?: readonly number[];
  /** Uplinks that they may leave by. With turns, the first of them that is good; without, all that are, by their weights. */
  readonly ways: readonly { readonly port: string; readonly turn?: number }[];
  /** While none of them is good they leave as the rest does, or, with `nothing`, not at all. */
  readonly otherwise?: 'nothing';
  readonly needs?: PathNeeds;
  readonly steady?: Steadiness;
}

/** How a course chooses among its uplinks. */
export const courseRule = ({ id, ways, otherwise, needs, steady }: CourseDocument): CourseRule => {
  const isShared = ways.length > 1 && ways.every(({ turn }) => turn === undefined);
  const ordered = [...ways].sort((a, b) => (a.turn ?? 0) - (b.turn ?? 0));
  return {
    id,
    ports: ordered.map(({ port }) => port),
    how: isShared ? 'share' : 'first',
    otherwise: otherwise ?? 'usual',
    ...(needs ? { needs } : {}),
    ...(steady ? { steady } : {}),
  };
};

/**
 * Tells which of some courses a flow takes: the first that it fits.
 * @returns its id; null: it leaves as the rest does.
 */
export function coursePicker(courses: readonly CourseDocument[]): (flow: Flow) => string | null {
  const fits = courses.map((course) => ({
    id: course.id,
    marks: course.dscp,
    matches: matcherOf(packetRuleOf({ ...course, verdict: 'allow' })),
  }));
  return (flow) => {
    const packet: Packet = {
      version: flow.source.version,
      source: flow.source.value,
      destination: flow.destination.value,
      protocol: flow.protocol,
      sourcePort: flow.sourcePort,
      port: flow.port,
    };
    return fits.find(({ marks, matches }) => (marks?.includes(flow.dscp ?? 0) ?? true) && matches(packet))?.id ?? null;
  };
}
