import type { CheckedList } from '../base';
import type { FirstUplink } from '../document';
import type { FirmwarePolicy, FirmwareState, UpdateWindow } from '../firmware';
import type { DeviceKind } from '../hardware';
import type { StaticAddress } from '../intent';
import type { LeavingState } from '../paths';
import type { PortReport, ClientReport, MeshReport, RadioReport, TunnelReport, SweepFind } from '../line';
import type { Coordinates } from './coordinates';
import type { DeviceState } from './device-state';
import type { HitchView } from './hitch';
import type { ExpectedDevice } from './serial-list';
import type { NewSite } from './site-founding';

/** A device as tables show it. */
export interface DeviceRow {
  readonly id: string;
  /** Site it is claimed into, or expected at. */
  readonly siteId: string | null;
  readonly state: DeviceState;
  /** Null for an expected device of which no model was said. */
  readonly kind: DeviceKind | null;
  /** Null until claimed; for an expected one the name it will get, where a list said so. */
  readonly name: string | null;
  readonly model: string;
  readonly title: string;
  readonly serial: string;
  readonly mac: string;
  readonly firmware: string;
  readonly firmwareState: FirmwareState | null;
  /** Release it is being updated to. */
  readonly updating: string | null;
  readonly address: string | null;
  /** Neighbour it hangs on, as `name · port`; a gateway's live uplinks; null when none is known. */
  readonly hangsOn: string | null;
  /** When it started, ISO 8601. */
  readonly bootedAt: string | null;
  readonly heardAt: string | null;
  /** Number of the revision whose document it runs; null when it runs none of ours. */
  readonly revision: number | null;
  readonly tags: readonly string[];
  /** Why it is stuck. */
  readonly trouble: string | null;
  /** Hitches that are open. */
  readonly hitches: number;
}

/** Rows of a table, in parts: the first few at once, the rest while people look at those. */
export interface DeviceRows {
  readonly rows: readonly DeviceRow[];
  /** Rows there are in all. */
  readonly total: number;
  /** To ask for what changed since; opaque. */
  readonly mark: string;
  /** Devices that since then no table shows any more. */
  readonly gone: readonly string[];
}

/** What a device hears on one of its ports. */
export interface NeighbourView {
  readonly port: string;
  /** Name of a device of ours, or its MAC address. */
  readonly name: string;
  readonly theirPort: string;
  readonly deviceId: string | null;
}

/** A device as its sheet shows it. */
export interface DeviceView extends DeviceRow {
  /** Counts the changes of what people say of it. */
  readonly version: number;
  /** First 16 hex digits of the SHA-256 of its public key, as on its label. */
  readonly fingerprint: string;
  readonly runs: string | null;
  readonly wants: string | null;
  readonly clients: readonly ClientReport[];
  readonly neighbours: readonly NeighbourView[];
  /** Of a gateway: how it came to an address before it had a controller, as somebody said at its own page; null: nothing was said. */
  readonly first: FirstView | null;
  /** Its fixed management address; null: given to it. */
  readonly fixed: StaticAddress | null;
  readonly lightOff: boolean;
  /** What it is for, in people’s words. */
  readonly purpose: string;
  readonly policy: FirmwarePolicy;
  readonly ports: readonly string[];
  /** Its ports as it last reported them: link, speed, power. */
  readonly portFacts: readonly PortReport[];
  /** Its radios as it last reported them. */
  readonly radioFacts: readonly RadioReport[];
  /** How it hangs on another by radio; null: it does not. */
  readonly mesh: MeshReport | null;
  /** Whether the far end of its tunnel answers; null: nothing of it goes through one. */
  readonly tunnel: TunnelReport | null;
  /** The same of its tunnels to other sites. */
  readonly landings: readonly TunnelReport[];
}

/** What was said at a gateway’s own page, without the password. */
export type FirstView = Omit<FirstUplink, 'login'> & { readonly user?: string };

/** A site in the estate's list. */
export interface SiteView {
  readonly id: string;
  /** Counts the changes of what is said of it beside its intent. */
  readonly version: number;
  readonly name: string;
  readonly code: string;
  readonly country: string;
  readonly timeZone: string;
  readonly address: string;
  readonly coordinates: Coordinates | null;
  /** What it is for, in people’s words. */
  readonly purpose: string;
  readonly tags: readonly string[];
  /** Its own update window; null: the estate's. */
  readonly window: UpdateWindow | null;
  readonly devices: Readonly<Record<DeviceState, number>>;
  /** Drafts with edits of this site that wait to be rolled out. */
  readonly drafts: number;
  readonly hitches: number;
  /** How it leaves: the worst of its gateways; null: none told it. */
  readonly paths: LeavingState | null;
  /** The revision that its devices were told, and whether that is not the newest. */
  readonly revision: number;
  readonly behind: boolean;
}

export interface EstateView {
  readonly id: string;
  readonly name: string;
  readonly country: string;
  readonly timeZone: string;
  readonly window: UpdateWindow;
  /** Number of the revision that is live; 0 before the first rollout. */
  readonly revision: number;
  readonly sites: readonly SiteView[];
  readonly calling: number;
}

/** What a first start asks for. */
export interface SetUpRequest {
  readonly estate: string;
  readonly country: string;
  readonly timeZone: string;
  readonly window: UpdateWindow;
  readonly name: string;
  readonly email: string;
  readonly password: string;
}
export interface SetUpState {
  /** Whether the controller is empty and waits to be set up. */
  readonly needed: boolean;
  /** Where devices and installers find this controller. */
  readonly address: string;
}

export interface CopySiteRequest extends NewSite {
  readonly from: string;
}
/** What taking a site away would do, at which no device is. */
export interface SiteRemoval {
  /** Why it cannot be, and what to do first; null: it can. */
  readonly why: string | null;
  /** Boxes that are no longer expected then. */
  readonly boxes: number;
  /** Edits that are left out of drafts then, and of which. */
  readonly edits: number;
  readonly drafts: readonly string[];
}
/** What was seen of it: what goes is what was seen. */
export type SiteRemovalRequest = Pick<SiteRemoval, 'boxes' | 'edits'>;

/** What of a site may be changed at once. */
export interface SiteChange {
  /** Of the site as the person saw it: what somebody changed since is not overwritten. */
  readonly version: number;
  readonly address: string;
  readonly coordinates: Coordinates | null;
  readonly purpose: string;
  readonly tags: readonly string[];
  readonly window: UpdateWindow | null;
}

export interface ClaimRequest {
  readonly serials: readonly string[];
}
export interface ClaimResult {
  readonly claimed: readonly DeviceView[];
}
/** What would happen if these serials were claimed now; asked before claiming. */
export interface ClaimPreview {
  readonly names: readonly string[];
}

/** A list as checked, kept for a while so that what is imported is what was seen. */
export interface ListPreview<T> extends CheckedList<T> {
  readonly token: string;
  readonly good: number;
  readonly bad: number;
}
export type SerialListPreview = ListPreview<ExpectedDevice>;
export type SiteListPreview = ListPreview<NewSite>;
export interface ImportRequest {
  readonly token: string;
  /** Whether rows with flaws are left out; otherwise one bad row means that none is taken. */
  readonly leaveOutBad: boolean;
}
export interface ImportResult {
  readonly imported: number;
}

/** Expecting one device, by what its label says. */
export interface ExpectRequest {
  readonly serial: string;
  readonly model?: string;
  readonly mac?: string;
  readonly fingerprint?: string;
}
export interface ExpectResult {
  /** Whether it was calling already, and so is claimed now. */
  readonly claimed: boolean;
  readonly device: DeviceView;
}

/** A sweep: a look at every address of a prefix for devices that wait for a controller. */
export interface SweepView {
  readonly id: string;
  readonly prefix: string;
  /** Name of the gateway that sweeps; null for the controller. */
  readonly by: string | null;
  readonly state: 'running' | 'done' | 'stopped' | 'failed';
  readonly done: number;
  readonly of: number;
  readonly reason: string | null;
  readonly found: readonly SweepFound[];
  readonly ms: number;
}
export interface SweepFound extends SweepFind {
  /** What we know of it: ours, calling already, expected, or new to us. */
  readonly known: 'ours' | 'calling' | 'expected' | 'new';
}

/** What a device is asked to become; absent fields stay. */
export interface DeviceChange {
  /** Of the device as the person saw it; to replace its tags it has to be said. */
  readonly version?: number;
  readonly name?: string;
  /** Null: let it ask for an address (DHCP). */
  readonly fixed?: {
    readonly address: string;
    readonly length: string;
    readonly gateway: string;
    readonly dns: string;
  } | null;
  readonly lightOff?: boolean;
  /** What it is for, in people’s words. */
  readonly purpose?: string;
  readonly tags?: readonly string[];
  readonly policy?: FirmwarePolicy;
}
/** Changes of many devices at once. */
export interface DevicesChange {
  readonly deviceIds: readonly string[];
  readonly addTags?: readonly string[];
  readonly removeTags?: readonly string[];
  readonly policy?: FirmwarePolicy;
}
/** What was done to many, and what was not. */
export interface ManyResult {
  readonly done: number;
  readonly failed: readonly { readonly name: string; readonly reason: string }[];
}

/** One thing that happened to a device, newest first. */
export interface HistoryEntry {
  readonly at: string;
  /** Null when nobody asked for it. */
  readonly by: string | null;
  readonly words: string;
}

export interface HitchList {
  readonly hitches: readonly HitchView[];
}
