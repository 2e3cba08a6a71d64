import type { Said } from './asking';
import type { GuestWay } from './ways';

/** Visit codes that are to be made: alike but for themselves. */
export interface NewCodes {
  readonly portalId: string;
  readonly count: number;
  /** What they are for; of several each gets its number behind it. */
  readonly name: string;
  readonly runs: 'made' | 'used';
  readonly minutes: number;
  /** Until when they have to be used first, ISO 8601; null: whenever. */
  readonly useBy: string | null;
  /** Most devices of each; null: any number. */
  readonly most: number | null;
  /** Sites that they open; null: wherever the portal is. */
  readonly siteIds: readonly string[] | null;
  /** Characters; absent: as many as make guessing hopeless. */
  readonly length?: number;
  /** One that somebody chose. */
  readonly code?: string;
}

/** Most codes that are made at once, and that a portal has at once. */
export const [MOST_NEW_CODES, MOST_CODES] = [10_000, 50_000];
/** Characters of what a code is for. */
export const MOST_CODE_NAME = 80;
/** Most devices of a code that can be said. */
export const MOST_CODE_DEVICES = 1000;

export const CODE_STATES = ['unused', 'used', 'over', 'revoked'] as const;
/** A visit code, without itself. */
export interface CodeView extends Omit<NewCodes, 'count' | 'length' | 'code' | 'portalId'> {
  readonly id: string;
  /** Its last two characters. */
  readonly hint: string;
  readonly madeAt: string;
  readonly by: string;
  readonly usedAt: string | null;
  /** Until when it is right; null: that begins with its first use. */
  readonly until: string | null;
  /** MAC addresses of those that used it. */
  readonly devices: readonly string[];
  readonly state: (typeof CODE_STATES)[number];
}

/** Codes of a portal. */
export interface CodesView {
  readonly portalId: string;
  readonly codes: readonly CodeView[];
  /** Where guests sign in, without the last slash. */
  readonly portalUrl: string;
  /** Days that guessing takes until one is hit with a chance of one in a hundred. */
  readonly daysToGuess: number;
}

export const VISIT_STATES = ['in', 'slow', 'quota', 'hours', 'over', 'idle', 'ended'] as const;
/** One guest’s time on the network. */
export interface VisitView {
  readonly id: string;
  readonly portalId: string;
  readonly siteId: string;
  readonly mac: string;
  /** What it is called: by people, else by itself; empty: nothing. */
  readonly host: string;
  readonly way: GuestWay;
  /** Id, and name, of the code that it came with. */
  readonly code: { readonly id: string; readonly name: string } | null;
  /** Name of the SSID or port, and id of the device, where it was last. */
  readonly at: string;
  readonly deviceId: string | null;
  readonly begun: string;
  readonly until: string;
  readonly endedAt: string | null;
  /** Octets, and seconds, so far. */
  readonly octets: number;
  readonly seconds: number;
  /** Octets that are left today; null: any. */
  readonly left: number | null;
  readonly state: (typeof VISIT_STATES)[number];
  /** Whether its device is told so. */
  readonly told: boolean;
  readonly blocked: boolean;
  /** Version of the terms that it agreed to; null: nobody asked. */
  readonly terms: string | null;
  /** What the guest said of itself; null: nobody asked. */
  readonly who: {
    readonly said: Said;
    /** Mail address or phone number; null: none was given. */
    readonly contact: string | null;
    /** Whether it gave the code that was sent there, or somebody said yes. */
    readonly proven: boolean;
    /** Address of who said yes, and whom it said it visits. */
    readonly sponsor: string | null;
    readonly whom: string | null;
  } | null;
}

/** Most visits that are told at once, the latest. */
export const MOST_VISITS_TOLD = 2000;
