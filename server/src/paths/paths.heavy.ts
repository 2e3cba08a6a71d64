import {
  FAILS_AT,
  failuresOf,
  rehearsedGateway,
  triesOf,
  type Failure,
  type Mate,
  type RouterTry,
  type TriesGiven,
} from '@iron-lattice/core/assess';
import type { RosterDevice, SitePart, UplinkSite } from '@iron-lattice/core/intent';
import {
  rehearse,
  type GatewayPathsView,
  type Mishap,
  type Phase,
  type Rehearsed,
  type RehearsedGateway,
  type WorstFailure,
} from '@iron-lattice/core/paths';
import type { TasksOf } from '../platform/heavy';

/** A gateway whose failures are looked at: what is said of its uplinks, and what it last told of them. */
export interface FailingGateway {
  readonly siteId: string;
  readonly site: UplinkSite & Pick<SitePart, 'courses'>;
  readonly device: RosterDevice;
  readonly facts: Pick<GatewayPathsView, 'uplinks'> | null;
  /** The other of its pair; null: it is alone. */
  readonly mate: Mate | null;
}

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** The worst of all failures of uplinks, gateway by gateway. @param most uplinks that fail at once. */
    'worst-failures': (gateways: readonly FailingGateway[], most: 1 | 2) => WorstFailure[];
    /** What mishaps do to a gateway; see core/paths. */
    rehearsal: (gateway: RehearsedGateway, mishaps: readonly Mishap[], seconds: number, phase: Phase) => Rehearsed;
    /** What can be tried of what is assumed of a router beside the gateway. */
    'router-tries': (given: TriesGiven, routerId: string) => readonly RouterTry[];
  }
}

/** The failure of a gateway’s uplinks after which somebody waits the longest. */
function worstOf({ siteId, site, device, facts, mate }: FailingGateway, most: 1 | 2): WorstFailure {
  const gateway = rehearsedGateway(site, device, facts, mate);
  const failures = failuresOf(gateway, most);
  const good = gateway.uplinks.filter(({ linked }) => linked).length;
  const waits = failures.flatMap((failure) => waitsIn(failure));
  const [worst] = waits.sort((a, b) => b.longest - a.longest || b.usual - a.usual);
  const of = { siteId, deviceId: device.id, name: device.name, uplinks: gateway.uplinks.length, good };
  if (!worst) return { ...of, ports: [], what: 'cut', longest: null, usual: null, stays: false };
  const { ports, what, longest, usual, spans } = worst;
  // Somebody who waits until the end of what was looked at would wait for as long as it lasts.
  const stays = spans.some(
    ({ to, used }) => to > FAILS_AT && used.length > 0 && used.every(({ port }) => !ports.includes(port)),
  );
  const course = site.courses?.find(({ id }) => id === worst.course)?.name;
  return { ...of, ports, what, longest, usual, stays, ...(course === undefined ? {} : { course }) };
}

/** Who waits in a failure, and for how long: what leaves as usual, and each course. */
function waitsIn({ ports, what, mean, worst }: Failure) {
  const of = { ports, what };
  return [
    { ...of, course: null, longest: worst.longest, usual: mean.longest, spans: worst.spans },
    ...(worst.courses ?? []).map(({ id, longest, spans }, i) => ({
      ...{ ...of, course: id, longest, usual: mean.courses?.[i]?.longest ?? longest, spans },
    })),
  ];
}

export const tasks: TasksOf<'worst-failures' | 'rehearsal' | 'router-tries'> = {
  rehearsal: rehearse,
  'router-tries': (given, routerId) => triesOf(given, routerId),
  'worst-failures': (gateways, most) => gateways.map((each) => worstOf(each, most)),
};
