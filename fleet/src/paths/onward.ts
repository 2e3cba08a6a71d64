import { contains, parseIp, parsePrefix, type IpAddress } from '@iron-lattice/core/address';
import type { GatewayDocument, RouteDocument } from '@iron-lattice/core/document';
import type { PathChange, PathsReport } from '@iron-lattice/core/line';
import { ToldRoutes, type Told } from './told-routes';
import { NOBODY_FAR, Pacts, type FarOutside } from './pacts';
import { TrackedRoutes } from './tracked-routes';
import { Tunnels, type Outer } from './tunnels';

/** Names that are told at once; more are counted. */
const MOST_NAMED = 3;

/** What became of tunnels or routes, but for when and by which uplinks everything leaves. */
export type OnwardChange = Pick<PathChange, 'what' | 'of' | 'why'>;

/** What a gateway sends otherwise than the rest: by routes that it was told, some of them tracked, and into tunnels to other sites or to gateways of others. */
export class Onward {
  private routes = new ToldRoutes([]);
  private tracked: TrackedRoutes | null = null;
  /** Its tunnels to other sites; null: it is joined to none. */
  tunnels: Tunnels | null = null;
  /** Its tunnels to gateways of others. */
  pacts = new Pacts([], {}, NOBODY_FAR, () => {}, 0);

  /** @param outer what it finds outside. @param hears whether an uplink, or a neighbour, has an answer from what a route tracks. */
  constructor(
    private readonly outer: Outer,
    private readonly hears: (route: RouteDocument) => boolean,
    /** Something is otherwise now; with what became of what, where that is told. */
    private readonly changed: (at: number, changes: readonly OnwardChange[]) => void,
    private readonly ticks: boolean,
    private readonly far: FarOutside = NOBODY_FAR,
  ) {}

  /** It runs a document, or another. What is known of what stays is kept. */
  run(
    { routes = [], overlay, pacts = [] }: GatewayDocument,
    at: number,
    secrets: Readonly<Record<string, string>>,
  ): void {
    this.tunnels?.stop();
    this.pacts.stop();
    this.tracked?.stop();
    this.routes = new ToldRoutes(routes);
    const before = this.tracked ?? undefined;
    this.tracked = new TrackedRoutes(
      routes,
      this.hears,
      ({ gone, back }, now) =>
        this.changed(now, [
          ...said('route-gone', gone, 'What it tracks does not answer.'),
          ...said('route-back', back, ''),
        ]),
      at,
      before,
    );
    this.tunnels = overlay
      ? new Tunnels(
          overlay,
          this.outer,
          ({ down, up, why }, now) =>
            this.changed(now, [...said('tunnel-down', down, why), ...said('tunnel-up', up, '')]),
          at,
          this.tunnels ?? undefined,
        )
      : null;
    this.pacts = new Pacts(
      pacts,
      secrets,
      this.far,
      ({ down, up, why }, now) => this.changed(now, [...said('pact-down', down, why), ...said('pact-up', up, '')]),
      at,
      this.pacts,
    );
    if (!this.ticks) return;
    if (pacts.length > 0) this.pacts.begin();
    this.tunnels?.begin();
    this.tracked.begin();
  }

  stop(): void {
    this.tunnels?.stop();
    this.tracked?.stop();
    this.pacts.stop();
    this.tunnels = this.tracked = null;
  }

  /** One round of questions by all that is tracked; for who does not wait for clocks. */
  ask(at = Date.now()): void {
    this.tunnels?.ask(at);
    this.pacts.ask(at);
    this.tracked?.ask(at);
  }

  /** Where something goes that is for somebody; null: nothing is said of it, and it leaves as the rest does. */
  to(
    destination: IpAddress,
    faces: readonly { readonly address: string }[],
    isGood: (port: string) => boolean,
  ): Told | null {
    const isLink = (address: string): boolean => {
      const ip = parseIp(address);
      return ip !== null && faces.some((face) => contains(parsePrefix(face.address)!, ip));
    };
    const found = this.routes.to(destination, isGood, isLink, (route) => this.tracked?.isUp(route) ?? true);
    const joined = this.tunnels?.to(destination);
    const pact = this.pacts.to(destination);
    const lengths = [found, joined, pact].map((each) => each?.prefix.length ?? -1) as [number, number, number];
    const longest = Math.max(...lengths);
    if (found && lengths[0] === longest) return found.told;
    if (joined && lengths[1] === longest) return { kind: 'tunnel', line: joined.line };
    return pact ? { kind: 'pact', name: pact.name } : null;
  }

  report(): Pick<PathsReport, 'tunnels' | 'routes' | 'pacts'> {
    const routes = this.tracked?.report() ?? [];
    const pacts = this.pacts.report();
    return {
      ...(pacts.length > 0 ? { pacts } : {}),
      ...(this.tunnels ? { tunnels: this.tunnels.report() } : {}),
      ...(routes.length > 0 ? { routes } : {}),
    };
  }
}

function said(what: PathChange['what'], names: readonly string[], why: string): OnwardChange[] {
  if (names.length === 0) return [];
  const more = names.length - MOST_NAMED;
  const of = `${names.slice(0, MOST_NAMED).join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
  return [{ what, of, why }];
}
