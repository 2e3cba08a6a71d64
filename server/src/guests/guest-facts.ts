import type { GuestFacts } from '@iron-lattice/core/assess';
import { daysToGuess, LEAST_DAYS } from '@iron-lattice/core/guests';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { SendingTeller } from '../roster/sending-offer';

/** How long what is known is remembered, in milliseconds: it is asked for at every edit, and changes seldom. */
const REMEMBERED_MS = 3000;

/** What is known of how guests are let in, whatever a draft says. */
export class GuestFactsReader {
  private known: { readonly at: number; readonly facts: Promise<GuestFacts> } | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly sending: SendingTeller,
    private readonly portalUrl: () => string,
  ) {}

  readonly now = (): Promise<GuestFacts> => {
    const now = performance.now();
    if (this.known && now - this.known.at < REMEMBERED_MS) return this.known.facts;
    const facts = this.read();
    this.known = { at: now, facts };
    facts.catch(() => (this.known = null));
    return facts;
  };

  /** Forgets what is remembered: how something is sent changed. */
  forget(): void {
    this.known = null;
  }

  private async read(): Promise<GuestFacts> {
    const [{ mail, texts }, codes, agreed] = await Promise.all([
      this.sending(),
      // A sealed code is as long as itself and what seals it.
      this.select<{ portalId: string; shortest: number; count: number }>(
        `SELECT portal_id AS "portalId", min(octet_length(sealed)) - 28 AS shortest, count(*)::int AS count FROM visit_code
         WHERE revoked_at IS NULL AND COALESCE(CASE WHEN runs = 'made' THEN made_at + seconds * interval '1 second'
           ELSE COALESCE(used_at + seconds * interval '1 second', use_by) END > now(), true) GROUP BY portal_id ORDER BY portal_id`,
      ),
      this.select<{ portalId: string; terms: string }>(
        `SELECT DISTINCT portal_id AS "portalId", terms FROM visit WHERE ended_at IS NULL AND until > now() AND terms IS NOT NULL ORDER BY 1, 2`,
      ),
    ]);
    const easy = codes.flatMap(({ portalId, shortest, count }) => {
      const days = Math.max(1, Math.floor(daysToGuess(shortest, count)));
      return days < LEAST_DAYS ? [{ portalId, days }] : [];
    });
    return { mail, texts, url: this.portalUrl(), easy, agreed };
  }

  private select<T extends object>(sql: string): Promise<T[]> {
    return this.database.query<T>(sql, { type: QueryTypes.SELECT });
  }
}
