import type { Band } from '../../hardware';
import { WIDTHS, type ToAll } from '../../radio';
import {
  PATH_HAPPENINGS,
  PATH_STATES,
  type CourseReport,
  type PathChange,
  type PathReport,
  PACT_STEPS,
  type PactReport,
  type PeerReport,
  type RouteReport,
  type PairReport,
  VRRP_STATES,
  type SixReport,
} from '../../paths';
export type { CourseReport, PactReport, PairReport, PathChange, PathReport, PeerReport, RouteReport };
import { Joi, type Shapes } from '../../schema';
import {
  clientShapes,
  type ClientReport,
  type RefusedReport,
  type TakenReport,
  type UnknownReport,
  type WiredReport,
} from './clients';
import {
  bandOf,
  clock,
  decibel,
  hostName,
  list,
  moment,
  nullable,
  octets,
  share,
  short,
  vlan,
  type FrameShapes,
} from './fields';

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
  /** What its provider delegated for the inside (RFC 8415 §6.3). */
  readonly prefix?: string;
  /** The provider’s router. */
  readonly gateway?: string;
}
/** How a gateway leaves. */
export interface PathsReport {
  readonly uplinks: readonly PathReport[];
  /** Since when sessions are counted, in milliseconds since 1970: since then those are used that are now. */
  readonly counted: number;
  /** The latest, oldest first. */
  readonly changes: readonly PathChange[];
  /** What leaves otherwise than the rest, in its order. */
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
/** Whether a RADIUS server answered a device when it asked it last. */
export interface ServerReport {
  readonly name: string;
  readonly answers: boolean;
  /** Since when it has been so, in milliseconds since 1970. */
  readonly since: number;
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
  /** Of a gateway. */
  readonly paths?: PathsReport;
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
  /** The same to other sites. */
  readonly landings?: readonly TunnelReport[];
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

const rule = Joi.string().max(100).required();
/** A hundred years of running, in seconds. */
const LONGEST_UPTIME = 3_155_760_000;

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
const uplink = {
  port: short.required(),
  up: Joi.boolean().required(),
  address: nullable,
  prefix: short,
  gateway: short,
};
const MOST_PACTS_TOLD = 16;
/** Prefixes of one side that a tunnel to a gateway of others is told to carry. */
export const MOST_AGREED_TOLD = 256;
const words = Joi.string().max(200).allow('').required();
const six = {
  address: nullable,
  prefix: short,
  gateway: short,
  since: moment.required(),
  why: Joi.string().max(200),
};
const path = {
  port: short.required(),
  state: Joi.valid(...PATH_STATES).required(),
  since: moment.required(),
  used: Joi.boolean().required(),
  weight: Joi.number().min(0).max(1_000_000),
  standby: Joi.valid(true),
  why: Joi.string().max(200),
  gateway: short,
  dns: list(short, 8).optional(),
  given: moment,
  six: Joi.object(six satisfies Shapes<SixReport>),
  flaps: Joi.number().integer().min(0).max(1_000_000),
  loss: share,
  delay: Joi.number().min(0).max(600_000),
  jitter: Joi.number().min(0).max(600_000),
  sessions: octets,
  octets: Joi.object({ down: octets.required(), up: octets.required() }),
};
/** Tunnels of one gateway: one to each other site. */
const MOST_PEERS = 1000;
const peer = {
  peer: Joi.string().min(1).max(200).required(),
  up: Joi.boolean().required(),
  since: moment.required(),
  by: short,
  to: short,
  loss: share,
  delay: Joi.number().min(0).max(600_000),
  why: Joi.string().max(200),
};
/** Routes of one gateway that are tracked: its own, and those that sites share. */
const MOST_TRACKED = 400;
const trackedRoute = {
  name: Joi.string().min(1).max(80).required(),
  up: Joi.boolean().required(),
  since: moment.required(),
};
const prefixesTold = list(short.required(), MOST_AGREED_TOLD).required();
const pact = {
  name: Joi.string().max(40).required(),
  up: Joi.boolean().required(),
  since: moment.required(),
  step: Joi.valid(...PACT_STEPS).required(),
  why: Joi.string().max(400),
  agreed: Joi.object({ ike: words, esp: words, here: prefixesTold, there: prefixesTold }),
  by: short,
  to: short,
  translated: Joi.valid(true),
  loss: share,
  delay: Joi.number().min(0).max(60_000),
};
const paired = {
  state: Joi.valid(...VRRP_STATES).required(),
  since: moment.required(),
  priority: Joi.number().integer().min(0).max(255).required(),
  hears: Joi.boolean().required(),
};
/** Characters of the name of a course. */
const MOST_COURSE_CHARS = 60;
/** Characters of some names of sites or routes, with how many more. */
const MOST_OF_CHARS = 700;
const pathChange = {
  at: moment.required(),
  port: Joi.string().max(40).allow('').required(),
  what: Joi.valid(...PATH_HAPPENINGS).required(),
  of: Joi.string().max(MOST_OF_CHARS),
  course: Joi.string().max(MOST_COURSE_CHARS),
  why: words,
  uses: list(short, 16),
};
const course = {
  id: Joi.string().max(60).required(),
  uses: list(short, 16),
  meets: Joi.boolean().required(),
  usual: Joi.boolean().required(),
  sessions: list(Joi.object({ port: short.required(), sessions: octets }), 16),
  part: share,
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
/** Other sites that one AP carries something to: one for each SSID that it sends at most. */
const MOST_LANDINGS = 64;
const report = {
  ...clientShapes,
  address: nullable,
  uptime: Joi.number().min(0).max(LONGEST_UPTIME).required(),
  neighbours: list(Joi.object(neighbour satisfies Shapes<NeighbourReport>), 128),
  uplinks: list(Joi.object(uplink satisfies Shapes<UplinkReport>), 8),
  paths: Joi.object({
    uplinks: list(Joi.object(path satisfies Shapes<PathReport>), 16),
    counted: moment.required(),
    changes: list(Joi.object(pathChange satisfies Shapes<PathChange>), 40),
    courses: list(Joi.object(course satisfies Shapes<CourseReport>), 50).optional(),
    tunnels: list(Joi.object(peer satisfies Shapes<PeerReport>), MOST_PEERS).optional(),
    routes: list(Joi.object(trackedRoute satisfies Shapes<RouteReport>), MOST_TRACKED).optional(),
    pacts: list(Joi.object(pact satisfies Shapes<PactReport>), MOST_PACTS_TOLD).optional(),
    pair: Joi.object(paired satisfies Shapes<PairReport>).optional(),
  } satisfies Shapes<PathsReport>),
  leases: list(Joi.object(lease satisfies Shapes<LeaseReport>), 8192),
  servers: list(
    Joi.object({
      name: short.required(),
      answers: Joi.boolean().required(),
      since: moment.required(),
    } satisfies Shapes<ServerReport>),
    100,
  ).optional(),
  ports: list(Joi.object(port satisfies Shapes<PortReport>), 128).optional(),
  radios: list(Joi.object(radio satisfies Shapes<RadioReport>), 8).optional(),
  mesh: Joi.object(mesh satisfies Shapes<MeshReport>),
  tunnel: Joi.object(tunnel satisfies Shapes<TunnelReport>),
  landings: list(Joi.object(tunnel satisfies Shapes<TunnelReport>), MOST_LANDINGS).optional(),
  counters: list(Joi.object(counter satisfies Shapes<CounterReport>), 128),
  hits: list(Joi.object(hit satisfies Shapes<HitReport>), 30_000).optional(),
  notes: list(Joi.object(note satisfies Shapes<NoteReport>), 100).optional(),
  clock,
} satisfies Shapes<Report>;

export const reportFrames = {
  device: { report: { report: Joi.object(report).required() } } satisfies FrameShapes<ReportFromDevice>,
};
