import type { CodeKind } from './code-kind';
import type { CodeView, VisitView } from './guests.contract';

/** Somebody at a reception. */
export interface ReceptionistFields {
  readonly name: string;
  /** Mail address, by which they sign in. */
  readonly email: string;
  readonly siteIds: readonly string[];
}
export interface ReceptionistView extends ReceptionistFields {
  readonly id: string;
  /** When they signed in last, ISO 8601; null: not yet, or long ago. */
  readonly seenAt: string | null;
}
/** What of somebody is to be changed: as it was seen, and as it is to be. */
export interface ReceptionistChange {
  readonly from: Partial<ReceptionistFields>;
  readonly to: Partial<ReceptionistFields>;
}
/** Most of them in an estate, most of their sites, characters of their names. */
export const [MOST_RECEPTIONISTS, MOST_RECEPTION_SITES, MOST_RECEPTIONIST_NAME] = [1000, 1000, 80];

/** A portal that takes codes, as reception sees it at one site. */
export interface DeskPortal {
  readonly id: string;
  readonly name: string;
  /** Minutes that a visit lasts unless a code says otherwise. */
  readonly visit: number;
  /** Kinds of codes that are given often. */
  readonly kinds: readonly CodeKind[];
  /** SSIDs that lead there, and what a QR code holds that joins one; null where joining takes a key. */
  readonly ssids: readonly { readonly name: string; readonly join: string | null }[];
}
/** What reception has before it. */
export interface DeskView {
  /** Where guests sign in, without the last slash. */
  readonly portalUrl: string;
  readonly sites: readonly { readonly id: string; readonly name: string; readonly portals: readonly DeskPortal[] }[];
}

/** Codes that reception makes: for one of its sites, from their first use. */
export interface DeskCodes {
  readonly portalId: string;
  readonly siteId: string;
  readonly count: number;
  readonly name: string;
  readonly minutes: number;
  readonly most: number | null;
}
/** Most codes that reception makes at once, and that are told, the latest. */
export const [MOST_DESK_CODES, MOST_DESK_TOLD] = [100, 500];

/** A code that opens one of reception’s sites. */
export interface DeskCode extends CodeView {
  readonly portalId: string;
  /** Whether it opens none but its sites: then it may be shown, made longer and taken back there. */
  readonly own: boolean;
}
export interface DeskGuests {
  readonly codes: readonly DeskCode[];
  readonly visits: readonly VisitView[];
}

/** What a QR code of a slip holds: the page that a code is given at, with the code in it. */
export const signInUrl = (portalUrl: string, code: string): string => `${portalUrl}/with/${code}`;
