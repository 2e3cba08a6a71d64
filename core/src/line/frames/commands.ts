import { MISHAPS, type MishapKind } from '../../paths';
import type { Credentials, Exchange } from '../../radius';
import { Joi, type Shapes } from '../../schema';
import { credentialsShape, entryTryShape, exchangeShape, type EntryTry } from './entry';
import { short, text, type FrameShapes } from './fields';
import { speedGotShape, speedTryShape, type SpeedGot, type SpeedTry } from './speed';
import { scanShape, type ScanReport } from './scan';

/** What a device can be asked to do. `session`: a packet that ends or changes one (RFC 5176); `forget`: back to factory state; `invite`: have another device call here; `bring-back`: use again what is good of its uplinks; `capacity`: measure what one can do; `drill`: play mishaps on its own uplinks for a while. */
export const COMMANDS = [
  'locate',
  'ping',
  'trace',
  'lookup',
  'probe',
  'capture',
  'restart',
  'sweep',
  'scan',
  'speed',
  'disconnect',
  'authenticate',
  'session',
  'invite',
  'forget',
  'bring-back',
  'capacity',
  'drill',
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
  /** Id of the key of a ring that it gives; absent: one that is in no ring. */
  readonly key?: string;
  /** The key itself, where servers name those of the ring. */
  readonly gives?: string;
  /** Who it says to be where that is asked (802.1X); absent: it does not say. */
  readonly entry?: Credentials;
  readonly does: 'ping' | 'trace' | 'lookup' | 'connect';
  /** Of `connect`. */
  readonly protocol?: 'tcp' | 'udp';
  /** Of `connect`: the port that is tried. */
  readonly number?: number;
}

/** Something that a gateway plays on an uplink of its own; it ends by itself. Seconds from the start. */
export interface DrilledMishap {
  readonly what: MishapKind;
  readonly port: string;
  readonly from: number;
  readonly to: number;
  readonly amount?: number;
  readonly target?: string;
}
/** Longest that a drill goes on, in seconds, and mishaps of one. */
export const [LONGEST_DRILL, MOST_MISHAPS] = [900, 20] as const;

/** What an uplink can do, in megabits a second. */
export interface Capacity {
  readonly down: number;
  readonly up: number;
}

/** What a VLAN got of an uplink while others were busy as well, in megabits a second. */
export interface BusyShare extends Capacity {
  readonly vlan: number;
}
/** Most VLANs that are busy in one measurement, and seconds that it takes: for as long nobody else gets much of the uplink. */
export const [MOST_BUSY, BUSY_SECONDS] = [64, 3] as const;

/** A device that answered in a sweep. */
export interface SweepFind {
  readonly address: string;
  readonly serial: string;
  readonly model: string;
  readonly mac: string;
  readonly firmware: string;
}

/** What comes of what a device was asked to do. */
export type CommandFromDevice =
  | {
      readonly type: 'answer';
      readonly id: string;
      readonly ok: boolean;
      readonly text: string;
      readonly packets?: readonly CapturedPacket[];
      readonly found?: readonly SweepFind[];
      /** Of a probe: what stopped it, where a rule or isolation did. */
      readonly stoppedBy?: string;
      /** Of a scan of the air. */
      readonly scan?: ScanReport;
      /** Of a test of speed. */
      readonly speed?: SpeedGot;
      /** Of asking a RADIUS server. */
      readonly exchange?: Exchange;
      /** Of a change of a session: what the device answers, in base64. */
      readonly octets?: string;
      readonly capacity?: Capacity;
      /** Of `capacity` with VLANs that are busy: what each got. */
      readonly shares?: readonly BusyShare[];
    }
  | {
      readonly type: 'progress';
      readonly id: string;
      readonly done: number;
      readonly of: number;
      readonly found?: readonly SweepFind[];
    };
export type CommandFromController =
  | {
      readonly type: 'command';
      readonly id: string;
      readonly name: CommandName;
      /** An address, a name, a prefix, or a port, as the command needs. */
      readonly target: string;
      /** How long a capture lasts. */
      readonly seconds?: number;
      readonly probe?: ProbeTry;
      readonly speed?: SpeedTry;
      readonly entry?: EntryTry;
      /** Of `drill`: what happens to its uplinks, and when it ends. */
      readonly mishaps?: readonly DrilledMishap[];
      /** Of `capacity`: VLANs that all send as much as they can meanwhile. */
      readonly busy?: readonly number[];
      /** Of `session`: a packet as it would come to UDP port 3799, in base64. */
      readonly octets?: string;
    }
  | { readonly type: 'cancel'; readonly id: string };

const find = {
  address: short.required(),
  serial: short.required(),
  model: short.required(),
  mac: short.required(),
  firmware: short.required(),
} satisfies Shapes<SweepFind>;
const finds = Joi.array().items(Joi.object(find)).max(4096);
const packet = {
  at: Joi.number().integer().min(0).required(),
  bytes: Joi.string().base64().max(400).required(),
  length: Joi.number().integer().min(14).max(262_144).required(),
} satisfies Shapes<CapturedPacket>;
const probe = {
  ssid: Joi.string().max(32),
  port: short,
  mac: Joi.string().pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/),
  key: short,
  gives: Joi.string().max(64),
  entry: credentialsShape,
  does: Joi.valid('ping', 'trace', 'lookup', 'connect').required(),
  protocol: Joi.valid('tcp', 'udp'),
  number: Joi.number().integer().min(0).max(65_535),
} satisfies Shapes<ProbeTry>;
const count = Joi.number().integer().min(0).max(65_536).required();
/** A RADIUS packet: 4,096 octets at most (RFC 2865 §3). */
const radiusOctets = Joi.string().base64().max(5464);
/** Mishaps of a drill. */
export const mishapsShape = Joi.array()
  .items(
    Joi.object({
      what: Joi.valid(...MISHAPS).required(),
      // What happens to the gateway itself happens to no uplink.
      port: Joi.when('what', { is: 'off', then: Joi.string().valid('').required(), otherwise: short.required() }),
      from: Joi.number().min(0).max(LONGEST_DRILL).required(),
      to: Joi.number().min(0).max(LONGEST_DRILL).greater(Joi.ref('from')).required(),
      amount: Joi.number().min(0).max(60_000),
      target: short,
    } satisfies Shapes<DrilledMishap>),
  )
  .min(1)
  .max(MOST_MISHAPS);
const megabits = Joi.number().min(0).max(1_000_000).required();
const vlan = Joi.number().integer().min(1).max(4094).required();
const id = short.required();

export const commandFrames = {
  device: {
    answer: {
      id,
      ok: Joi.boolean().required(),
      text: Joi.string().max(4000).meta({ lines: true }).allow('').required(),
      packets: Joi.array().items(Joi.object(packet)).max(5000),
      found: finds,
      stoppedBy: text,
      scan: scanShape,
      speed: speedGotShape,
      exchange: exchangeShape,
      octets: radiusOctets,
      capacity: Joi.object({ down: megabits, up: megabits } satisfies Shapes<Capacity>),
      shares: Joi.array()
        .items(Joi.object({ vlan, down: megabits, up: megabits } satisfies Shapes<BusyShare>))
        .max(MOST_BUSY),
    },
    progress: { id, done: count, of: count, found: finds },
  } satisfies FrameShapes<CommandFromDevice>,
  controller: {
    command: {
      id,
      name: Joi.string()
        .valid(...COMMANDS)
        .required(),
      target: Joi.string().max(253).allow('').required(),
      seconds: Joi.number().min(0.1).max(60),
      probe: Joi.object(probe),
      speed: speedTryShape,
      entry: entryTryShape,
      octets: radiusOctets,
      mishaps: mishapsShape,
      busy: Joi.array().items(vlan).max(MOST_BUSY),
    },
    cancel: { id },
  } satisfies FrameShapes<CommandFromController>,
};
