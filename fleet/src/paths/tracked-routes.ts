import { ROUTE_ANSWERS, ROUTE_ASKS_SECONDS, ROUTE_LOSSES, type RouteDocument } from '@iron-lattice/core/document';
import type { RouteReport } from '@iron-lattice/core/line';

/** A route whose other end is asked, and how that fares. */
interface Tracked {
  readonly route: RouteDocument;
  up: boolean;
  since: number;
  /** Questions in a row that went otherwise than it is held for. */
  turns: number;
}

/** What became of some at once. */
export interface Turned {
  readonly gone: readonly string[];
  readonly back: readonly string[];
}

/** Asks by routes that are tracked whether anybody answers: those by which nobody does are not there. */
export class TrackedRoutes {
  private readonly routes = new Map<string, Tracked>();
  private timer: NodeJS.Timeout | null = null;

  /**
   * @param hears whether what a route tracks answers by it. @param changed is told of those that are otherwise now.
   * @param before those that it had until now: what stays as it was goes on.
   */
  constructor(
    told: readonly RouteDocument[],
    private readonly hears: (route: RouteDocument) => boolean,
    private readonly changed: (turned: Turned, at: number) => void,
    at: number,
    before?: TrackedRoutes,
  ) {
    for (const route of told) {
      if (route.tracks === undefined) continue;
      const old = before?.routes.get(route.name);
      const stays = old && isAlike(old.route, route) ? old : { up: true, since: at, turns: 0 };
      this.routes.set(route.name, { route, up: stays.up, since: stays.since, turns: stays.turns });
    }
  }

  /** From now on it asks at its intervals. */
  begin(): void {
    if (this.routes.size === 0) return;
    this.timer = setInterval(() => this.ask(Date.now()), ROUTE_ASKS_SECONDS * 1000);
    this.timer.unref();
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  /** One question by each. */
  ask(at: number): void {
    const [gone, back]: [string[], string[]] = [[], []];
    for (const tracked of this.routes.values()) {
      const answers = this.hears(tracked.route);
      tracked.turns = answers === tracked.up ? 0 : tracked.turns + 1;
      if (tracked.turns < (tracked.up ? ROUTE_LOSSES : ROUTE_ANSWERS)) continue;
      Object.assign(tracked, { up: answers, since: at, turns: 0 });
      (answers ? back : gone).push(tracked.route.name);
    }
    if (gone.length + back.length > 0) this.changed({ gone, back }, at);
  }

  /** Whether a route is there, as far as who it tracks says. */
  isUp = ({ name }: Pick<RouteDocument, 'name'>): boolean => this.routes.get(name)?.up ?? true;

  report = (): RouteReport[] =>
    [...this.routes.values()].map(({ route, up, since }) => ({ name: route.name, up, since }));
}

const isAlike = (a: RouteDocument, b: RouteDocument): boolean =>
  a.prefix === b.prefix && a.to === b.to && a.by === b.by && a.tracks === b.tracks;
