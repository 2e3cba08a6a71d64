import type { VisitRow } from './visit-state';

/** How long what was just seen of a guest is good for the page that it asks for next, in milliseconds; and of how many it is kept. */
const [SEEN_MS, MOST_SEEN] = [1000, 10_000];

/** What the database said of a guest: whether somebody keeps it out, and its latest visit. */
export type StandingRow = Partial<VisitRow> & { readonly blocked: boolean };

/**
 * What was seen of guests while they were written down: the page that each asks for next needs no question of its own. Each is used once,
 * and forgotten when anything here changes how that guest stands; what pages show decides nothing.
 */
export class JustSeen {
  private readonly seen = new Map<string, { readonly row: StandingRow; readonly at: number }>();

  put(portalId: string, mac: string, row: StandingRow): void {
    if (this.seen.size >= MOST_SEEN) this.seen.clear();
    this.seen.set(`${portalId} ${mac}`, { row, at: performance.now() });
  }

  take(portalId: string, mac: string): StandingRow | null {
    const key = `${portalId} ${mac}`;
    const found = this.seen.get(key);
    this.seen.delete(key);
    return found && performance.now() - found.at < SEEN_MS ? found.row : null;
  }

  forget(portalId: string, mac: string): void {
    this.seen.delete(`${portalId} ${mac}`);
  }
}
