import { QueryTypes, type Sequelize } from 'sequelize';
import { clock } from '../platform/clock';
import { later } from '../platform/held-connection';
import type { VisitService } from './visit.service';

/** How often it is looked who takes nothing, in milliseconds. Of several controllers one ends each visit. */
const LOOK_MS = 5000;

/** Ends visits whose guests took nothing for as long as their portal said when they began. */
export class IdleVisits {
  private timer: NodeJS.Timeout | null = null;
  private isOver = false;

  constructor(
    private readonly database: Sequelize,
    private readonly visits: Pick<VisitService, 'say'>,
    private readonly failed: (error: unknown) => void,
  ) {}

  begin(): void {
    if (this.isOver) return;
    this.timer = later(
      LOOK_MS,
      () =>
        void this.look()
          .catch(this.failed)
          .finally(() => this.begin()),
    );
    this.timer.unref();
  }

  /** Ends those that are due. */
  async look(): Promise<void> {
    const ended = await this.database.query<{ portal_id: string; mac: string }>(
      `UPDATE visit SET ended_at = :now, ended_why = 'idle' WHERE ended_at IS NULL AND idle IS NOT NULL AND until > :now
       AND GREATEST(begun, active_at) < :now::timestamptz - idle * interval '1 minute' RETURNING portal_id, mac`,
      { replacements: { now: new Date(clock.now()) }, type: QueryTypes.SELECT },
    );
    this.visits.say(ended.map((row) => ({ portalId: row.portal_id, mac: row.mac })));
  }

  end(): void {
    this.isOver = true;
    if (this.timer) clearTimeout(this.timer);
  }
}
