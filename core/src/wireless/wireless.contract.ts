import type { Band } from '../hardware';
import type { RadioEntry } from '../intent';
import type { ClientReport, RadioReport, RefusedReport, ScanReport, SpeedGot, SpeedTry } from '../line';

/** What a radio was last changed by. */
export interface RadioChange {
  readonly deviceId: string;
  readonly band: Band;
  /** What was done, such as `its own edit`, `the band`, `radar`. */
  readonly how: string;
  /** The draft it came in, and whose edit it was. */
  readonly by: string;
  /** ISO 8601. */
  readonly at: string;
}

/** What one AP heard, and when. */
export interface AirHeard extends ScanReport {
  readonly deviceId: string;
  readonly name: string;
  /** ISO 8601. */
  readonly at: string;
}

/** How a scan of one AP stands. */
export interface ScanStep {
  readonly deviceId: string;
  readonly name: string;
  readonly state: 'waits' | 'scans' | 'done' | 'failed' | 'left';
  /** From 0 to 1. */
  readonly done: number;
  /** Why it failed. */
  readonly reason: string;
}

/** A scan of a site's air that is under way, or the last one. */
export interface ScanRun {
  readonly id: string;
  readonly running: boolean;
  readonly by: string;
  /** ISO 8601. */
  readonly startedAt: string;
  readonly steps: readonly ScanStep[];
}

/** The air of a site as it was last heard. */
export interface AirView {
  readonly heard: readonly AirHeard[];
  readonly run: ScanRun | null;
  /** Our networks by their identity (BSSID): the AP and what it sends. */
  readonly ours: readonly { readonly bssid: string; readonly deviceId: string; readonly ssid: string }[];
}

/** Where a client was, and since when: ISO 8601. */
export interface AirVisit {
  readonly deviceId: string;
  readonly deviceName: string;
  readonly band: Band | null;
  readonly at: string;
}

/** A client on the air of a site. */
export interface AirClientView extends ClientReport {
  readonly deviceId: string;
  readonly deviceName: string;
  /** Where it was before, the latest first; where it is now is the first of them. */
  readonly visits: readonly AirVisit[];
}

/** A client that tried and was not taken in. */
export interface AirRefusalView extends RefusedReport {
  readonly deviceId: string;
  readonly deviceName: string;
}

/** Who is on the air of a site, and who tries in vain. */
export interface AirClientsView {
  readonly clients: readonly AirClientView[];
  readonly refused: readonly AirRefusalView[];
}

/** A radio of the estate: what is said of it in a draft, and what it does. */
export interface EstateRadio {
  readonly siteId: string;
  readonly site: string;
  readonly deviceId: string;
  readonly name: string;
  readonly band: Band;
  readonly on: boolean;
  /** Primary channel that is said; null: it takes one by itself, or what is said is not legal there. */
  readonly channel: number | null;
  readonly width: number;
  /** EIRP in dBm; null where it has nowhere to send. */
  readonly power: number | null;
  /** What is said of it alone; null: nothing. */
  readonly said: RadioEntry | null;
  readonly fixed: boolean;
  /** What it may be told: channels that are legal there, those shared with radar only where the band has them; widths; most EIRP in dBm. */
  readonly may: {
    readonly channels: readonly number[];
    readonly widths: readonly number[];
    readonly power: number | null;
  };
  /** As it last reported; null while it did not. */
  readonly fact: RadioReport | null;
  readonly clients: number;
}

/** A plan of channels that is worked out again each week, in the site's update window. */
export interface PlanRecurrence {
  readonly on: boolean;
  readonly bands: readonly Band[];
  /** What a plan has to bring before it is taken: share by which radios are less in each other's way, from 0 to 1. */
  readonly leastGain: number;
  /** Radios that it may move at once. */
  readonly mostMoved: number;
}

/** The same with how it went the last time. */
export interface PlanRecurrenceView extends PlanRecurrence {
  /** Who asked for it; null: nobody yet. */
  readonly by: string | null;
  /** When it was last looked at, in ISO 8601, and what came of it. */
  readonly lastAt: string | null;
  readonly last: string;
}

/** A test of the speed of a radio, kept with what was live then. */
export interface SpeedTest {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
  /** ISO 8601. */
  readonly at: string;
  readonly by: string;
  /** The revision that was live at the site. */
  readonly revision: number;
  readonly asked: SpeedTry;
  readonly got: SpeedGot;
  /** What was predicted of what came down, by what the AP had heard; null: it never listened. */
  readonly predicted: number | null;
}

/** What a scan would do, asked before it is begun. */
export interface ScanForecast {
  /** APs that would scan, and those that cannot. */
  readonly aps: readonly { readonly deviceId: string; readonly name: string; readonly clients: number }[];
  readonly cannot: readonly { readonly name: string; readonly reason: string }[];
  /** Others that are away meanwhile, since they hang by radio on one that scans. */
  readonly behind: number;
  /** Clients that are dropped. */
  readonly clients: number;
  /** How long each is away at the most, and how long it takes in all, in seconds. */
  readonly awaySeconds: number;
  readonly seconds: number;
}
