import { KEY_REFUSALS } from '../../document';
import { BANDS, type Band } from '../../hardware';
import { WIDTHS, type ToAll } from '../../radio';
import { Joi, type Shapes } from '../../schema';
import { ENTRY_REFUSALS, enteredShape, type EnteredReport } from './entered';
import { clock, list, moment, short, type FrameShapes } from './fields';

/** A device's neighbour on one port, as heard by LLDP (IEEE 802.1AB-2016 §8.5). */
export interface NeighbourReport {
  readonly port: string;
  readonly chassis: string;
  readonly theirPort: string;
  /** By radio, and the device that reports it hangs on the other. */
  readonly hangs?: true;
}
/** How a device hangs on another by radio. */
export interface MeshReport {
  /** MAC address of the device it hangs on. */
  readonly parent: string;
  readonly band: Band;
  readonly channel: number;
  readonly width: number;
  /** The weaker of what the two hear of each other, in dBm; and how fast frames are sent, in Mb/s. */
  readonly signal: number;
  readonly rate: number;
  /** Radio hops to one with a cable. */
  readonly hops: number;
  /** In milliseconds since 1970. */
  readonly since: number;
}
/** Whether the far end of an AP's tunnel answers. */
export interface TunnelReport {
  /** Its address. */
  readonly to: string;
  readonly answers: boolean;
}
export interface UplinkReport {
  readonly port: string;
  readonly up: boolean;
  readonly address: string | null;
}
/** A client on the air. */
export interface ClientReport {
  readonly mac: string;
  readonly ssid: string;
  readonly vlan: number;
  readonly address: string | null;
  /** Its IPv6 address, made by itself or given (RFC 4862, RFC 8415). */
  readonly address6?: string;
  /** When it joined, in milliseconds since 1970. */
  readonly since?: number;
  /** Host name it asked for an address with (RFC 2132 §3.14). */
  readonly name?: string;
  readonly band?: Band;
  /** As the AP hears it, in dBm. */
  readonly signal?: number;
  /** Width in MHz and streams of what is sent to it, the rate of that in Mb/s, and the share that was sent again. */
  readonly width?: number;
  readonly streams?: number;
  readonly rate?: number;
  readonly retries?: number;
  /** It gave the passphrase that was right before. */
  readonly former?: true;
  /** Id of the key that it gave, of a ring. */
  readonly key?: string;
  readonly named?: NamedReport;
  readonly entered?: EnteredReport;
}
/** That a RADIUS server chose the class of a client. */
export interface NamedReport {
  /** Id of the class, and name of the server. */
  readonly classId: string;
  readonly server: string;
}
/** Why a client that tried was not taken in. */
export const REFUSALS = [
  ...(['passphrase', 'security', 'band', 'weak', 'low', 'full', 'off', 'radar'] as const),
  ...KEY_REFUSALS,
  ...ENTRY_REFUSALS,
] as const;
export interface RefusedReport {
  readonly mac: string;
  readonly ssid: string;
  /**
   * `passphrase`: another than ours. `security`: it cannot do what the SSID asks for, or looks for another. `low`: it is heard below what
   * the SSID asks for. `full`: as many as may are there. `band`: it does none that the SSID is sent on here. `weak`: too far away. `off`: the radios for it are
   * off or busy otherwise. `radar`: they listen for radar. Of a key of a ring: `bound` to other MAC addresses, given by as many `devices` as may,
   * too `early`, `over`, or it leads to a segment that is `nowhere` here. Of who says who it is: see `ENTRY_REFUSALS`.
   */
  readonly why: (typeof REFUSALS)[number];
  /** Id of the key of a ring that it gave. */
  readonly key?: string;
  /** Who it says to be, which server was the last to be asked, and what that named. */
  readonly user?: string;
  readonly server?: string;
  readonly said?: string;
  /** When it was first turned away so, in milliseconds since 1970. */
  readonly since: number;
}
/** A client that speaks on a port of a switch, a gateway or an AP (its forwarding table, IEEE 802.1Q-2022 §8.8). */
export interface WiredReport {
  readonly mac: string;
  readonly port: string;
  readonly vlan: number;
  /** Its IPv6 address, made by itself or given (RFC 4862, RFC 8415). */
  readonly address6?: string;
  readonly since?: number;
  readonly named?: NamedReport;
  readonly entered?: EnteredReport;
  /** Why it is in a segment of the port’s for those that got no other: it does not say who it is, is turned away, or no server answers. */
  readonly fell?: (typeof FELL)[number];
  /** Its frames carry the tag of their VLAN, as those of a desk phone do. */
  readonly tagged?: true;
}
/** Octets to a client and from it since it came: what accounting counts (RFC 2866 §5.3, §5.4, from the device’s side). */
export interface TakenReport {
  readonly mac: string;
  readonly down: number;
  readonly up: number;
}
/** Whether a RADIUS server answered a device when it asked it last. */
export interface ServerReport {
  readonly name: string;
  readonly answers: boolean;
  /** Since when it has been so, in milliseconds since 1970. */
  readonly since: number;
}
export const FELL = ['guest', 'rejected', 'unanswered'] as const;
/** Why a client that is asked who it is has no class. */
export const UNKNOWN_WHY = [
  ...(['unlisted', 'rejected', 'class', 'vlan', 'segment', 'nothing', 'nobody'] as const),
  ...(['mute', 'unasked', 'untrusted', 'method', 'full'] as const),
] as const;
/** A client that nobody knows, where it matters who somebody is. */
export interface UnknownReport {
  readonly mac: string;
  /** Where: a port, which lets it in nowhere, or an SSID, whose own segment it joins. */
  readonly port?: string;
  readonly ssid?: string;
  /**
   * `unlisted`: no class lists it, and no server is asked. `rejected`: a server says no. Of one that says yes: it names a `class` or a `vlan`
   * that is not told here, a class whose `segment` the site lacks, or `nothing`. `nobody`: no server answers. At a port that asks by 802.1X:
   * `mute`: it does not say who it is. `unasked`: no server is to be asked. `untrusted`: it does not believe the server. `method`: the server
   * wants another one. `full`: as many as may are there.
   */
  readonly why: (typeof UNKNOWN_WHY)[number];
  /** What the server named, and which server it was. */
  readonly said?: string;
  readonly server?: string;
  /** Who it says to be (802.1X). */
  readonly user?: string;
  /** VLAN of the segment that its port has for such; absent: none. */
  readonly vlan?: number;
  readonly since?: number;
}
/** A radio as it is. */
export interface RadioReport {
  readonly band: Band;
  /**
   * `idle`: it has nothing to send. `listening`: for radar, before it may send. `silent`: it has nowhere to go until its channel has
   * rested.
   */
  readonly state: 'on' | 'off' | 'idle' | 'listening' | 'silent';
  /** Primary channel, number of the middle of the whole, width in MHz, and EIRP in dBm; while it sends or tries to. */
  readonly channel?: number;
  readonly centre?: number;
  readonly width?: number;
  readonly power?: number;
  /** When its listening or its silence ends, in milliseconds since 1970. */
  readonly until?: number;
  /** The channel it left since radar was heard there, and until when that rests. */
  readonly left?: { readonly channel: number; readonly until: number };
  /** Share of the time in which others send on its channel, and the noise there in dBm. */
  readonly busy?: number;
  readonly noise?: number;
  /** What it sends, by name, with the identity of each (BSSID). */
  readonly sends?: readonly SendsReport[];
}
/** A network that a radio sends. */
export interface SendsReport {
  readonly ssid: string;
  readonly bssid: string;
  /** Frames to all that came for its clients, and the share of the air that was taken by them, as they were sent. */
  readonly toAll?: ToAll & { readonly share: number };
}
export interface LeaseReport {
  readonly vlan: number;
  readonly mac: string;
  readonly address: string;
  /** When it was first given, in milliseconds since 1970. */
  readonly since?: number;
  /** Host name the client asked with (RFC 2132 §3.14). */
  readonly name?: string;
}
/** A port as it is: link, agreed speed in megabits a second, and the power it gives, in watts. */
export interface PortReport {
  readonly port: string;
  readonly up: boolean;
  readonly speed?: number;
  readonly watts?: number;
}
/** Octets since start, by port (RFC 8343 `in-octets`, `out-octets`). */
export interface CounterReport {
  readonly port: string;
  readonly inOctets: number;
  readonly outOctets: number;
}

/** Packets that began something and that a rule decided, since the device started. */
export interface HitReport {
  readonly rule: string;
  readonly packets: number;
}

/** A packet that a rule decided which is to note them. */
export interface NoteReport {
  /** ISO 8601. */
  readonly at: string;
  readonly rule: string;
  /** Ends and service, in words. */
  readonly packet: string;
  readonly passed: boolean;
}

/** All a device tells of itself and around it. */
export interface Report {
  readonly address: string | null;
  readonly uptime: number;
  readonly neighbours: readonly NeighbourReport[];
  readonly uplinks: readonly UplinkReport[];
  readonly clients: readonly ClientReport[];
  readonly leases: readonly LeaseReport[];
  readonly counters: readonly CounterReport[];
  readonly wired?: readonly WiredReport[];
  /** Of clients on the air, and of those that a port lets in by who they are. */
  readonly taken?: readonly TakenReport[];
  /** Of servers that it asked since it started. */
  readonly servers?: readonly ServerReport[];
  readonly ports?: readonly PortReport[];
  readonly radios?: readonly RadioReport[];
  /** Absent: it hangs on a cable, or on nobody. */
  readonly mesh?: MeshReport;
  /** Absent: nothing of it goes through a tunnel. */
  readonly tunnel?: TunnelReport;
  /** Clients that try, and are not taken in. */
  readonly refused?: readonly RefusedReport[];
  /** Clients that are asked who they are, and that nobody knows. */
  readonly unknown?: readonly UnknownReport[];
  readonly hits?: readonly HitReport[];
  /** The latest, oldest first. */
  readonly notes?: readonly NoteReport[];
  /** What its clock shows, in milliseconds since 1970. */
  readonly clock?: number;
}

/** What a device tells by itself. */
export interface ReportFromDevice {
  readonly type: 'report';
  readonly report: Report;
}

const vlan = Joi.number().integer().min(1).max(4094).required();
const octets = Joi.number().integer().min(0).required();
const nullable = Joi.string().max(64).allow(null).required();
const hostName = Joi.string().max(63);
const rule = Joi.string().max(100).required();
/** A hundred years of running, in seconds. */
const LONGEST_UPTIME = 3_155_760_000;

const bandOf = Joi.valid(...BANDS);
const decibel = Joi.number().min(-130).max(60);
const share = Joi.number().min(0).max(1);
const channel = Joi.number().integer().min(1).max(233);
const radio = {
  band: bandOf.required(),
  state: Joi.valid('on', 'off', 'idle', 'listening', 'silent').required(),
  channel,
  centre: channel,
  width: Joi.number().valid(...WIDTHS),
  power: decibel,
  until: moment,
  left: Joi.object({ channel: channel.required(), until: moment.required() }),
  busy: share,
  noise: decibel,
  sends: list(
    Joi.object({
      ssid: Joi.string().max(32).required(),
      bssid: short.required(),
      toAll: Joi.object({
        perSecond: Joi.number().min(0).max(1_000_000).required(),
        octets: Joi.number().min(0).max(65_535).required(),
        share: share.required(),
      }),
    }),
    32,
  ).optional(),
};
const neighbour = {
  port: short.required(),
  chassis: short.required(),
  theirPort: short.required(),
  hangs: Joi.valid(true),
};
const uplink = { port: short.required(), up: Joi.boolean().required(), address: nullable };
const named = Joi.object({ classId: short.required(), server: short.required() } satisfies Shapes<NamedReport>);
const client = {
  mac: short.required(),
  ssid: Joi.string().max(32).required(),
  vlan,
  address: nullable,
  address6: short,
  since: moment,
  name: hostName,
  band: bandOf,
  signal: decibel,
  width: Joi.number().valid(...WIDTHS),
  streams: Joi.number().integer().min(1).max(16),
  rate: Joi.number().min(0).max(100_000),
  retries: share,
  former: Joi.valid(true),
  key: short,
  named,
  entered: enteredShape,
};
const wired = {
  ...{ mac: short.required(), port: short.required(), vlan, address6: short, since: moment, named },
  entered: enteredShape,
  fell: Joi.valid(...FELL),
  tagged: Joi.valid(true),
};
const unknown = {
  mac: short.required(),
  port: short,
  ssid: Joi.string().max(32),
  why: Joi.valid(...UNKNOWN_WHY).required(),
  said: Joi.string().max(1100).allow(''),
  server: short,
  user: Joi.string().max(253).allow(''),
  vlan: Joi.number().integer().min(1).max(4094),
  since: moment,
};
const lease = { vlan, mac: short.required(), address: short.required(), since: moment, name: hostName };
const port = {
  port: short.required(),
  up: Joi.boolean().required(),
  speed: Joi.number().min(0).max(1_000_000),
  watts: Joi.number().min(0).max(200),
};
const counter = { port: short.required(), inOctets: octets, outOctets: octets };
const hit = { rule, packets: octets };
const note = {
  at: Joi.string().max(40).isoDate().required(),
  rule,
  packet: Joi.string().max(200).required(),
  passed: Joi.boolean().required(),
};
const refused = {
  mac: short.required(),
  ssid: Joi.string().max(32).required(),
  why: Joi.valid(...REFUSALS).required(),
  key: short,
  user: Joi.string().max(253).allow(''),
  server: short,
  said: Joi.string().max(1100).allow(''),
  since: moment.required(),
};
const mesh = {
  parent: short.required(),
  band: bandOf.required(),
  channel: channel.required(),
  width: Joi.number()
    .valid(...WIDTHS)
    .required(),
  signal: decibel.required(),
  rate: Joi.number().min(0).max(100_000).required(),
  hops: Joi.number().integer().min(1).max(16).required(),
  since: moment.required(),
};
const tunnel = { to: short.required(), answers: Joi.boolean().required() };
const report = {
  address: nullable,
  uptime: Joi.number().min(0).max(LONGEST_UPTIME).required(),
  neighbours: list(Joi.object(neighbour satisfies Shapes<NeighbourReport>), 128),
  uplinks: list(Joi.object(uplink satisfies Shapes<UplinkReport>), 8),
  clients: list(Joi.object(client satisfies Shapes<ClientReport>), 512),
  leases: list(Joi.object(lease satisfies Shapes<LeaseReport>), 8192),
  wired: list(Joi.object(wired satisfies Shapes<WiredReport>), 8192).optional(),
  servers: list(
    Joi.object({
      name: short.required(),
      answers: Joi.boolean().required(),
      since: moment.required(),
    } satisfies Shapes<ServerReport>),
    100,
  ).optional(),
  taken: list(
    Joi.object({ mac: short.required(), down: octets, up: octets } satisfies Shapes<TakenReport>),
    8704,
  ).optional(),
  ports: list(Joi.object(port satisfies Shapes<PortReport>), 128).optional(),
  refused: list(Joi.object(refused satisfies Shapes<RefusedReport>), 64).optional(),
  unknown: list(Joi.object(unknown satisfies Shapes<UnknownReport>), 256).optional(),
  radios: list(Joi.object(radio satisfies Shapes<RadioReport>), 8).optional(),
  mesh: Joi.object(mesh satisfies Shapes<MeshReport>),
  tunnel: Joi.object(tunnel satisfies Shapes<TunnelReport>),
  counters: list(Joi.object(counter satisfies Shapes<CounterReport>), 128),
  hits: list(Joi.object(hit satisfies Shapes<HitReport>), 30_000).optional(),
  notes: list(Joi.object(note satisfies Shapes<NoteReport>), 100).optional(),
  clock,
} satisfies Shapes<Report>;

export const reportFrames = {
  device: { report: { report: Joi.object(report).required() } } satisfies FrameShapes<ReportFromDevice>,
};
