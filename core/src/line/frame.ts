import { Joi, type ObjectSchema } from '../schema';
import type { DeviceDocument } from '../document';

/** Version of the device line; both ends refuse another major number. */
export const LINE_VERSION = 1;
/** Path of the WebSocket. */
export const LINE_PATH = '/line';
/** What a device signs: this label, the serial number and the controller's nonce, each on a line. */
export const proofText = (serial: string, nonce: string): string =>
  `iron-lattice line ${LINE_VERSION}\n${serial}\n${nonce}`;

/** A device's neighbour on one port, as heard by LLDP (IEEE 802.1AB-2016 §8.5). */
export interface NeighbourReport {
  readonly port: string;
  readonly chassis: string;
  readonly theirPort: string;
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
}
/** A client that speaks on a port of a switch, a gateway or an AP (its forwarding table, IEEE 802.1Q-2022 §8.8). */
export interface WiredReport {
  readonly mac: string;
  readonly port: string;
  readonly vlan: number;
  /** Its IPv6 address, made by itself or given (RFC 4862, RFC 8415). */
  readonly address6?: string;
  readonly since?: number;
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
  readonly ports?: readonly PortReport[];
  readonly hits?: readonly HitReport[];
  /** The latest, oldest first. */
  readonly notes?: readonly NoteReport[];
  /** What its clock shows, in milliseconds since 1970. */
  readonly clock?: number;
}

/** What a device can be asked to do. `forget`: back to factory state; `invite`: have another device call here. */
export const COMMANDS = [
  'locate',
  'ping',
  'trace',
  'lookup',
  'probe',
  'capture',
  'restart',
  'sweep',
  'invite',
  'forget',
] as const;
export type CommandName = (typeof COMMANDS)[number];

/** A frame that a device took off one of its ports. */
export interface CapturedPacket {
  /** Microseconds since 1970. */
  readonly at: number;
  /** Ethernet frame without check sequence, in base64; cut at 256 octets. */
  readonly bytes: string;
  /** Octets it had on the wire. */
  readonly length: number;
}

/** What a pretend client tries, and where it sits: on an SSID of an AP, or on a port. */
export interface ProbeTry {
  readonly ssid?: string;
  readonly port?: string;
  /** Whose MAC address it takes; absent: one that nobody knows. */
  readonly mac?: string;
  readonly does: 'ping' | 'trace' | 'lookup' | 'connect';
  /** Of `connect`. */
  readonly protocol?: 'tcp' | 'udp';
  /** Of `connect`: the port that is tried. */
  readonly number?: number;
}

/** A device that answered in a sweep. */
export interface SweepFind {
  readonly address: string;
  readonly serial: string;
  readonly model: string;
  readonly mac: string;
  readonly firmware: string;
}

/** What a device says. */
export type DeviceFrame =
  | {
      readonly type: 'hello';
      readonly version: number;
      readonly serial: string;
      readonly model: string;
      readonly mac: string;
      readonly firmware: string;
      /** Ed25519 public key, SubjectPublicKeyInfo in base64. */
      readonly key: string;
      /** Hash of the document it runs, null in factory state. */
      readonly runs: string | null;
      /** What its clock shows, in milliseconds since 1970. */
      readonly clock?: number;
      /** A release that it could not start, and why: it runs what it ran before. */
      readonly failed?: { readonly release: string; readonly reason: string };
    }
  | { readonly type: 'proof'; readonly signature: string }
  | { readonly type: 'applied'; readonly hash: string }
  | { readonly type: 'kept'; readonly hash: string }
  | { readonly type: 'went-back'; readonly hash: string; readonly runs: string | null; readonly reason: string }
  | { readonly type: 'refused'; readonly hash: string; readonly runs: string | null; readonly reason: string }
  | { readonly type: 'report'; readonly report: Report }
  | {
      readonly type: 'answer';
      readonly id: string;
      readonly ok: boolean;
      readonly text: string;
      readonly packets?: readonly CapturedPacket[];
      readonly found?: readonly SweepFind[];
      /** Of a probe: what stopped it, where a rule or isolation did. */
      readonly stoppedBy?: string;
    }
  | {
      readonly type: 'progress';
      readonly id: string;
      readonly done: number;
      readonly of: number;
      readonly found?: readonly SweepFind[];
    }
  | { readonly type: 'firmware-progress'; readonly id: string; readonly percent: number; readonly restarting: boolean }
  | { readonly type: 'firmware-failed'; readonly id: string; readonly reason: string };

/** What the controller says. */
export type ControllerFrame =
  | { readonly type: 'challenge'; readonly nonce: string }
  | { readonly type: 'welcome'; readonly claimed: boolean; readonly reportSeconds: number; readonly now?: number }
  | { readonly type: 'refusal'; readonly code: string; readonly reason: string }
  | {
      readonly type: 'document';
      readonly hash: string;
      readonly document: DeviceDocument;
      /** Values of the secrets the document refers to, by id. */
      readonly secrets: Readonly<Record<string, string>>;
      /** How long the device waits for `keep` before it goes back. */
      readonly keepWithinSeconds: number;
    }
  | { readonly type: 'keep'; readonly hash: string }
  | {
      readonly type: 'command';
      readonly id: string;
      readonly name: CommandName;
      /** An address, a name, a prefix, or a port, as the command needs. */
      readonly target: string;
      /** How long a capture lasts. */
      readonly seconds?: number;
      readonly probe?: ProbeTry;
    }
  | { readonly type: 'cancel'; readonly id: string }
  | {
      readonly type: 'firmware';
      readonly id: string;
      readonly release: string;
      /** Octets of the image. */
      readonly size: number;
      readonly sha256: string;
      /** Where the controller serves the image. */
      readonly path: string;
    };

const hash = Joi.string().hex().length(64);
const text = Joi.string().max(400);
const short = Joi.string().min(1).max(64);
const list = (item: ObjectSchema, most: number) => Joi.array().items(item).max(most).required();
const vlan = Joi.number().integer().min(1).max(4094).required();
const octets = Joi.number().integer().min(0).required();
/** The end of the year 9999: beyond it neither dates nor the database go. */
const LAST_MOMENT = 253_402_300_799_999;
const moment = Joi.number().integer().min(0).max(LAST_MOMENT);
/** A clock may be wrong, but it shows a date. */
const clock = Joi.number().integer().min(-LAST_MOMENT).max(LAST_MOMENT);
/** A hundred years of running, in seconds. */
const LONGEST_UPTIME = 3_155_760_000;
const nullable = Joi.string().max(64).allow(null).required();

const report = Joi.object({
  address: nullable,
  uptime: Joi.number().min(0).max(LONGEST_UPTIME).required(),
  neighbours: list(Joi.object({ port: short.required(), chassis: short.required(), theirPort: short.required() }), 128),
  uplinks: list(Joi.object({ port: short.required(), up: Joi.boolean().required(), address: nullable }), 8),
  clients: list(
    Joi.object({
      mac: short.required(),
      ssid: Joi.string().max(32).required(),
      vlan,
      address: nullable,
      address6: short,
      since: moment,
      name: Joi.string().max(63),
    }),
    512,
  ),
  leases: list(
    Joi.object({ vlan, mac: short.required(), address: short.required(), since: moment, name: Joi.string().max(63) }),
    8192,
  ),
  wired: list(
    Joi.object({ mac: short.required(), port: short.required(), vlan, address6: short, since: moment }),
    8192,
  ).optional(),
  ports: list(
    Joi.object({
      port: short.required(),
      up: Joi.boolean().required(),
      speed: Joi.number().min(0).max(1_000_000),
      watts: Joi.number().min(0).max(200),
    }),
    128,
  ).optional(),
  counters: list(Joi.object({ port: short.required(), inOctets: octets, outOctets: octets }), 128),
  hits: list(Joi.object({ rule: Joi.string().max(100).required(), packets: octets }), 30_000).optional(),
  notes: list(
    Joi.object({
      at: Joi.string().max(40).isoDate().required(),
      rule: Joi.string().max(100).required(),
      packet: Joi.string().max(200).required(),
      passed: Joi.boolean().required(),
    }),
    100,
  ).optional(),
  clock,
});
const finds = Joi.array()
  .items(
    Joi.object({
      address: short.required(),
      serial: short.required(),
      model: short.required(),
      mac: short.required(),
      firmware: short.required(),
    }),
  )
  .max(4096);
const packets = Joi.array()
  .items(
    Joi.object({
      at: Joi.number().integer().min(0).required(),
      bytes: Joi.string().base64().max(400).required(),
      length: Joi.number().integer().min(14).max(262_144).required(),
    }),
  )
  .max(5000);
const percent = Joi.number().integer().min(0).max(100).required();

/** One schema a frame type; unknown types and unknown fields are refused. */
const DEVICE_FRAMES: Readonly<Record<DeviceFrame['type'], ObjectSchema>> = {
  hello: Joi.object({
    type: short,
    version: Joi.number().integer().min(0).max(1000).required(),
    serial: Joi.string()
      .max(32)
      .pattern(/^[0-9A-Z-]{4,32}$/)
      .required(),
    model: short.required(),
    mac: short.required(),
    firmware: short.required(),
    key: Joi.string().base64().max(128).required(),
    runs: hash.allow(null).required(),
    clock,
    failed: Joi.object({ release: short.required(), reason: text.required() }),
  }),
  proof: Joi.object({ type: short, signature: Joi.string().base64().max(128).required() }),
  applied: Joi.object({ type: short, hash: hash.required() }),
  kept: Joi.object({ type: short, hash: hash.required() }),
  'went-back': Joi.object({
    type: short,
    hash: hash.required(),
    runs: hash.allow(null).required(),
    reason: text.required(),
  }),
  refused: Joi.object({
    type: short,
    hash: hash.required(),
    runs: hash.allow(null).required(),
    reason: text.required(),
  }),
  report: Joi.object({ type: short, report: report.required() }),
  answer: Joi.object({
    type: short,
    id: short.required(),
    ok: Joi.boolean().required(),
    text: Joi.string().max(4000).meta({ lines: true }).allow('').required(),
    packets,
    found: finds,
    stoppedBy: text,
  }),
  progress: Joi.object({
    type: short,
    id: short.required(),
    done: Joi.number().integer().min(0).max(65_536).required(),
    of: Joi.number().integer().min(0).max(65_536).required(),
    found: finds,
  }),
  'firmware-progress': Joi.object({ type: short, id: short.required(), percent, restarting: Joi.boolean().required() }),
  'firmware-failed': Joi.object({ type: short, id: short.required(), reason: text.required() }),
};

const CONTROLLER_FRAMES: Readonly<Record<ControllerFrame['type'], ObjectSchema>> = {
  challenge: Joi.object({ type: short, nonce: Joi.string().base64().min(32).max(128).required() }),
  welcome: Joi.object({
    type: short,
    claimed: Joi.boolean().required(),
    reportSeconds: Joi.number().min(0.01).max(3600).required(),
    now: Joi.number().integer(),
  }),
  refusal: Joi.object({ type: short, code: short.required(), reason: text.required() }),
  document: Joi.object({
    type: short,
    hash: hash.required(),
    document: Joi.object({ format: Joi.string().valid('iron-lattice.document/1').required() })
      .unknown()
      .required(),
    secrets: Joi.object().pattern(short, Joi.string().max(128)).required(),
    keepWithinSeconds: Joi.number().min(0.1).max(600).required(),
  }),
  keep: Joi.object({ type: short, hash: hash.required() }),
  command: Joi.object({
    type: short,
    id: short.required(),
    name: Joi.string()
      .valid(...COMMANDS)
      .required(),
    target: Joi.string().max(253).allow('').required(),
    seconds: Joi.number().min(0.1).max(60),
    probe: Joi.object({
      ssid: Joi.string().max(32),
      port: short,
      mac: Joi.string().pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/),
      does: Joi.valid('ping', 'trace', 'lookup', 'connect').required(),
      protocol: Joi.valid('tcp', 'udp'),
      number: Joi.number().integer().min(0).max(65_535),
    }),
  }),
  cancel: Joi.object({ type: short, id: short.required() }),
  firmware: Joi.object({
    type: short,
    id: short.required(),
    release: short.required(),
    size: Joi.number().integer().min(1).required(),
    sha256: hash.required(),
    path: Joi.string()
      .pattern(/^\/[0-9A-Za-z/._-]+$/)
      .required(),
  }),
};

/** A frame, or why the text is none. */
export type ReadFrame<T> = { readonly ok: true; readonly frame: T } | { readonly ok: false; readonly reason: string };

/** Reads what a device sent. */
export const readDeviceFrame = (text: string): ReadFrame<DeviceFrame> => read(text, DEVICE_FRAMES);
/** Reads what the controller sent. */
export const readControllerFrame = (text: string): ReadFrame<ControllerFrame> => read(text, CONTROLLER_FRAMES);

function read<T>(text: string, schemas: Readonly<Record<string, ObjectSchema>>): ReadFrame<T> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, reason: 'not JSON' };
  }
  const type = typeof value === 'object' && value !== null ? (value as { type?: unknown }).type : undefined;
  const schema = typeof type === 'string' && Object.hasOwn(schemas, type) ? schemas[type] : undefined;
  if (!schema) return { ok: false, reason: `unknown frame type ${String(type).slice(0, 40)}` };
  const { error } = schema.validate(value, { convert: false });
  return error ? { ok: false, reason: error.message } : { ok: true, frame: value as T };
}
