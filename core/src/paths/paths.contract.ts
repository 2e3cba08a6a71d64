import type {
  CourseReport,
  PactReport,
  PairReport,
  PathChange,
  PathReport,
  PeerReport,
  RouteReport,
} from './path-state';
import type { Mishap, Rehearsed } from './rehearsal';

/** How a gateway leaves, in one word: as meant; one of its paths is gone; on a standby; or nothing is good. */
export const LEAVING_STATES = ['whole', 'lost', 'standby', 'none'] as const;
export type LeavingState = (typeof LEAVING_STATES)[number];

/** An uplink as its gateway last told it. */
export interface PathView extends PathReport {
  readonly address: string | null;
  /** Octets that passed, both ways, since the day on which its allowance began anew, or, if that is later, on which they were first counted, such as 2026-12-01. */
  readonly carried?: { readonly octets: number; readonly since: string };
}

/** How a gateway leaves. */
export interface GatewayPathsView {
  readonly deviceId: string;
  /** When it told it last, ISO 8601. */
  readonly at: string;
  readonly state: LeavingState;
  /** Since when sessions are counted, ISO 8601: since then those are used that are now. */
  readonly counted: string;
  readonly uplinks: readonly PathView[];
  /** Octets a second through all of them, both ways, over the latest days; absent: not known yet. */
  readonly rate?: number;
  /** What leaves otherwise than the rest. */
  readonly courses?: readonly CourseReport[];
  /** Tunnels to other sites. */
  readonly tunnels?: readonly PeerReport[];
  /** Routes that are tracked. */
  readonly routes?: readonly RouteReport[];
  /** Tunnels to gateways of others. */
  readonly pacts?: readonly PactReport[];
  /** Of one of a pair of gateways. */
  readonly pair?: PairReport;
}

/** What became of an uplink. */
export interface PathChangeView extends Omit<PathChange, 'at'> {
  readonly deviceId: string;
  /** ISO 8601. */
  readonly at: string;
}

/** How a site leaves. */
export interface SitePathsView {
  readonly gateways: readonly GatewayPathsView[];
  /** The latest first. */
  readonly changes: readonly PathChangeView[];
}

/** Changes of a site that are told. */
export const MOST_CHANGES_TOLD = 200;

/** A rehearsal that a gateway really played. */
export interface DrillView {
  readonly id: string;
  readonly deviceId: string;
  /** When it began, ISO 8601. */
  readonly at: string;
  readonly by: string;
  readonly mishaps: readonly Mishap[];
  /** What was computed beforehand. */
  readonly predicted: Rehearsed;
  /** What the gateway told of it, the first first. */
  readonly changes: readonly PathChangeView[];
}
/** What a drill would come to: as usual, and at worst. */
export interface DrillForecast {
  readonly mean: Rehearsed;
  readonly worst: Rehearsed;
}
/** Drills of a site that are told. */
export const MOST_DRILLS_TOLD = 10;
/** Seconds that a drill is watched for after its last mishap ended. */
export const DRILL_AFTER = 180;

/** What the worst failure of a gateway’s uplinks comes to. */
export interface WorstFailure {
  readonly siteId: string;
  readonly deviceId: string;
  readonly name: string;
  /** Uplinks that it has, and those of them that lead anywhere. */
  readonly uplinks: number;
  readonly good: number;
  /** Which fail, and how. */
  readonly ports: readonly string[];
  /** `off`: the gateway itself, which another stands in for. */
  readonly what: 'cut' | 'silent' | 'off';
  /** Seconds that somebody waits at worst, and as usual; null: no uplink leads anywhere. */
  readonly longest: number | null;
  readonly usual: number | null;
  /** The course whose sessions wait; absent: whatever leaves as usual does. */
  readonly course?: string;
  /** Whether another uplink stands in; else somebody waits for as long as it lasts. */
  readonly stays: boolean;
}

/** A rehearsal that is kept, and reckoned up anew after each rollout at its site. */
export interface KeptRehearsal {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
  readonly mishaps: readonly Mishap[];
  /** Seconds that anybody may wait at a stretch, at worst. */
  readonly most: number;
  readonly by: string;
  /** The latest first; none while its gateway has no uplinks. */
  readonly runs: readonly RehearsalRun[];
}

/** What a kept rehearsal came to. */
export interface RehearsalRun {
  /** ISO 8601. */
  readonly at: string;
  /** The revision that was live; null: none was yet. */
  readonly revision: number | null;
  readonly passed: boolean;
  /** Seconds that anybody waits at a stretch, as usual and at worst. */
  readonly usual: number;
  readonly worst: number;
  /** The course that waits the longest; absent: what leaves as usual does. */
  readonly course?: string;
}
/** Rehearsals that a site keeps, runs of each that are told, and characters of a name. */
export const [MOST_REHEARSALS, MOST_RUNS_TOLD, MOST_REHEARSAL_NAME] = [20, 10, 60];
