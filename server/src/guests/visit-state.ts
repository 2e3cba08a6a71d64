import { guestState, type GuestState, type GuestWay } from '@iron-lattice/core/guests';
import type { Portal } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize } from 'sequelize';
import { clock } from '../platform/clock';
import type { LivePortal } from './portals-live';

/** What counts by day is looked at as far back as this, in hours: no day is longer. */
const DAY_HOURS = 27;
const SECOND_MS = 1000;

export interface VisitRow {
  readonly id: string;
  readonly portal_id: string;
  readonly site_id: string;
  readonly device_id: string | null;
  readonly place: string;
  readonly mac: string;
  readonly way: GuestWay;
  readonly code_id: string | null;
  readonly terms: string | null;
  readonly begun: Date;
  readonly until: Date;
  readonly ended_at: Date | null;
  /** What ended it, where it was neither its time nor somebody. */
  readonly ended_why: 'idle' | null;
  readonly ended_by: string | null;
  readonly told_at: Date | null;
}
export interface UseRow {
  readonly portal_id: string;
  readonly mac: string;
  readonly at: Date;
  readonly last_at: Date;
  readonly octets: string;
  readonly seconds: number;
}

/** How a guest stands at a portal, as one row: whether somebody keeps it out, and its latest visit. @param portalId and `mac` as SQL has them. */
export const standingSql = (portalId: string, mac: string): string =>
  `SELECT b.blocked, v.* FROM (SELECT EXISTS (SELECT 1 FROM guest_block WHERE mac = ${mac}) AS blocked) b LEFT JOIN LATERAL (
     SELECT * FROM visit WHERE portal_id = ${portalId} AND mac = ${mac} ORDER BY ended_at DESC NULLS FIRST LIMIT 1) v ON true`;

/** Nobody let it in. */
export const OUT: GuestState = { letIn: false, why: null, until: 0, left: null, resets: null };

/** How a visit stands now. @param uses what devices took lately. */
export function stateOf(row: VisitRow, uses: readonly UseRow[], { portal, timeZone, hours }: LivePortal): GuestState {
  const counted = uses
    .filter(({ mac }) => mac === row.mac)
    .map(({ at, last_at, octets, seconds }) => ({
      from: at.getTime(),
      to: last_at.getTime(),
      octets: Number(octets),
      seconds,
    }));
  const facts = {
    ...{ until: row.until.getTime(), ended: row.ended_at !== null, counted, hours, rests: restOf(row, portal) },
    idle: row.ended_why === 'idle',
    octetsADay: portal.dataADay ? portal.dataADay * 1_000_000 : null,
    secondsADay: portal.minutesADay ? portal.minutesADay * 60 : null,
    slows: Boolean(portal.slow),
  };
  return guestState(facts, timeZone, clock.now());
}

/** Until when somebody whose time is over waits; null: it may let itself in. Whoever was let out before is not kept waiting. */
function restOf(
  { until, begun, way, ended_at: ended, ended_by: by, ended_why: why }: VisitRow,
  { rest, visit }: Portal,
): number | null {
  if (!rest || by !== null || why !== null || (ended !== null && ended < until)) return null;
  // First minutes, until an address was known, are no visit yet.
  const unproven = way === 'mail' || way === 'phone';
  if (unproven && until.getTime() - begun.getTime() < visit * 60_000 - SECOND_MS) return null;
  return until.getTime() + rest * 60_000;
}

/** What devices took lately, where that counts. */
export async function usesOf(
  database: Sequelize,
  { id, dataADay, minutesADay }: Portal,
  macs: readonly string[],
): Promise<UseRow[]> {
  if (!dataADay && !minutesADay) return [];
  return database.query<UseRow>(
    `SELECT * FROM guest_use WHERE portal_id = :id AND mac = ANY(ARRAY[:macs]) AND last_at > now() - interval '${DAY_HOURS} hours'`,
    { replacements: { id, macs: [...macs] }, type: QueryTypes.SELECT },
  );
}
