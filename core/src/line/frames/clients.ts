import { KEY_REFUSALS } from '../../document';
import type { Band } from '../../hardware';
import { WIDTHS } from '../../radio';
import { Joi, type Shapes } from '../../schema';
import { ENTRY_REFUSALS, enteredShape, type EnteredReport } from './entered';
import { bandOf, decibel, hostName, list, moment, nullable, octets, share, short, vlan } from './fields';

/** A client on the air. */
export interface ClientReport {
  readonly mac: string;
  readonly ssid: string;
  readonly vlan: number;
  /** The address at another site that its frames are carried to: then the VLAN is one of that. */
  readonly to?: string;
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
  /** Name of the RADIUS server that named the key it gave, of a ring whose keys are there. */
  readonly keyedBy?: string;
  /** Id of the class that it has there, whatever gave it that. */
  readonly classId?: string;
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
  /** Id of the class that it has there, whatever gave it that. */
  readonly classId?: string;
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
  to: short,
  keyedBy: short,
  classId: short,
  named,
  entered: enteredShape,
};
const wired = {
  ...{ mac: short.required(), port: short.required(), vlan, address6: short, since: moment, named },
  classId: short,
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

/** Of a report: clients on the air and on ports, those that are not taken in or known to nobody, and what each took. */
export const clientShapes = {
  clients: list(Joi.object(client satisfies Shapes<ClientReport>), 512),
  wired: list(Joi.object(wired satisfies Shapes<WiredReport>), 8192).optional(),
  refused: list(Joi.object(refused satisfies Shapes<RefusedReport>), 64).optional(),
  unknown: list(Joi.object(unknown satisfies Shapes<UnknownReport>), 256).optional(),
  taken: list(
    Joi.object({ mac: short.required(), down: octets, up: octets } satisfies Shapes<TakenReport>),
    8704,
  ).optional(),
};
