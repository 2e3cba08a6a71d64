import type { EndingCertificate } from '@iron-lattice/core/assess';
import type { Exchange } from '@iron-lattice/core/radius';
import { QueryTypes, type Sequelize } from 'sequelize';
import { clock } from '../../platform/clock';

/** Days before the end of a certificate from which it is told, and after it for which it still is. */
export const [SOON_DAYS, LATE_DAYS] = [30, 30] as const;
/** Characters of whom a certificate is for, servers and names that are told. */
const [MOST_NAME, MOST_SERVERS, MOST_NAMES] = [200, 20, 3];
/** How long what was found is told as it is, in milliseconds: it is asked for with every edit. */
const FRESH_MS = 10_000;

/** Those that end soon or did lately, hold otherwise, and that no other of the same name and label follows. */
const ENDING = `i.revoked_at IS NULL AND i.until < now() + make_interval(days => ${SOON_DAYS})
  AND i.until > now() - make_interval(days => ${LATE_DAYS}) AND NOT EXISTS (
    SELECT 1 FROM entry_issued n WHERE n.name = i.name AND n.kind = i.kind AND n.label = i.label
      AND n.user_id IS NOT DISTINCT FROM i.user_id AND n.revoked_at IS NULL AND n.until > i.until)`;

interface Ended {
  readonly name: string;
  readonly until: Date;
  readonly count: number;
}

/** Which certificates end soon: what RADIUS servers show, and what the estate’s authority made. */
export class EndingCertificates {
  private known: { readonly at: number; readonly found: Promise<EndingCertificate[]> } | null = null;

  constructor(private readonly database: Sequelize) {}

  /** A server showed a certificate when it was asked. What says no day at which it ends is none. */
  async shown(radiusId: string, { names, until, sha256 }: NonNullable<Exchange['certificate']>): Promise<void> {
    const ends = new Date(until);
    if (Number.isNaN(ends.getTime())) return;
    const name = (names[0] ?? '').slice(0, MOST_NAME);
    await this.database.query(
      `INSERT INTO entry_shown (radius_id, name, sha256, until, at) VALUES (:radiusId, :name, :sha256, :ends, :now)
       ON CONFLICT (radius_id) DO UPDATE SET name = excluded.name, sha256 = excluded.sha256, until = excluded.until, at = excluded.at`,
      { replacements: { radiusId, name, sha256, ends, now: clock.date() } },
    );
    this.forget();
  }

  /** They changed: they are looked up anew. */
  forget(): void {
    this.known = null;
  }

  /** Those that end within 30 days, or did in the last 30. */
  ending(): Promise<readonly EndingCertificate[]> {
    if (this.known && clock.now() - this.known.at < FRESH_MS) return this.known.found;
    const found = this.find();
    this.known = { at: clock.now(), found };
    found.catch(() => this.forget());
    return found;
  }

  private async find(): Promise<EndingCertificate[]> {
    const [shown, servers, users] = await Promise.all([
      this.rows<{ radius_id: string; name: string; until: Date; at: Date }>(
        `SELECT radius_id, name, until, at FROM entry_shown WHERE until < now() + make_interval(days => ${SOON_DAYS}) ORDER BY until, radius_id`,
      ),
      this.rows<Ended>(
        `SELECT i.name, i.until, 1 AS count FROM entry_issued i WHERE i.kind = 'server' AND ${ENDING} ORDER BY i.until, i.name LIMIT ${MOST_SERVERS}`,
      ),
      this.rows<Ended>(
        `SELECT i.name, min(i.until) AS until, (count(*) OVER ())::int AS count FROM entry_issued i JOIN entry_user u ON u.id = i.user_id
         WHERE i.kind = 'user' AND u.removed_at IS NULL AND ${ENDING} GROUP BY i.name ORDER BY 2, 1 LIMIT ${MOST_NAMES}`,
      ),
    ]);
    const [first] = users;
    return [
      ...shown.map(({ radius_id: radiusId, name, until, at }) => ({
        ...{ kind: 'shown' as const, radiusId, name, seen: dayOf(at), ...ends(until) },
      })),
      ...servers.map(({ name, until }) => ({ kind: 'servers' as const, names: [name], count: 1, ...ends(until) })),
      ...(first
        ? [{ kind: 'users' as const, names: users.map(({ name }) => name), count: first.count, ...ends(first.until) }]
        : []),
    ];
  }

  private rows<T extends object>(sql: string): Promise<T[]> {
    return this.database.query<T>(sql, { type: QueryTypes.SELECT });
  }
}

const dayOf = (date: Date): string => date.toISOString().slice(0, 10);
const ends = (until: Date) => ({ day: dayOf(until), over: until.getTime() <= clock.now() });
