import type { Band, HardwareSheet } from '@iron-lattice/core/hardware';
import type { Phy, Width } from '@iron-lattice/core/radio';
import { farGatewayShape, type FarGateway } from '../paths/far-gateways';
import { providerShape, type WorldProvider } from '../paths/provider-file';
import { airSchema, type AirFile } from '../air/air-file';
import { readFileSync } from 'node:fs';
import { EAP_METHODS } from '@iron-lattice/core/radius';
import { Joi } from '@iron-lattice/core/schema';
import type { Enters } from './enters';
import { routerShape, type WorldRouter } from './world-router';

export interface WorldDevice {
  readonly serial: string;
  readonly model: string;
  readonly mac: string;
  readonly firmware: string;
  /** Of a model without a shipped hardware sheet. */
  readonly sheet?: HardwareSheet;
  /** Does not know its controller: waits until somebody has it call. */
  readonly waits?: true;
  /** Address of this machine at which it answers sweeps while it waits. */
  readonly at?: string;
  /** Not plugged in yet. */
  readonly off?: true;
}
/** A client that stands near one AP and tries one SSID. */
export interface AirClient {
  readonly mac: string;
  /** Host name it asks for an address with. */
  readonly name?: string;
  /** Serial number of the AP it hears. */
  readonly near: string;
  readonly ssid: string;
  /** Absent: it looks for a network that asks for none. */
  readonly passphrase?: string;
  /** Who it says to be where that is asked (802.1X); absent: it looks for a network that does not. */
  readonly enters?: Enters;
  /** What its radio can do; absent: what such things usually can. */
  readonly bands?: readonly Band[];
  readonly phy?: Phy;
  readonly streams?: number;
  readonly width?: Width;
  /** Of a time before WPA3 and OWE. */
  readonly old?: true;
  /** The band it takes where it hears both well; absent: the faster one. */
  readonly likes?: Band;
  readonly talks?: readonly string[];
  readonly offers?: readonly string[];
  /** Kilobits a second down and up that it takes; absent: a little. */
  readonly takes?: readonly [down: number, up: number];
}
/** A client on a cable. */
export interface WiredClient {
  readonly mac: string;
  readonly name?: string;
  /** `SERIAL:port`. */
  readonly at: string;
  /** Power it draws from the port, in watts. */
  readonly watts?: number;
  /** Has an address of its own and asks for none. */
  readonly address?: string;
  /** Who it says to be at a port that asks (802.1X); absent: it does not say. */
  readonly enters?: Enters;
  /** What it says of itself, over and over: `10.20.5.7 tcp 631`; absent: a page of the estate's. */
  readonly talks?: readonly string[];
  /** What it answers to besides echoes: `tcp 631`. */
  readonly offers?: readonly string[];
  /** Networks that it hands packets on to, a router of somebody else’s, with what is answered there besides echoes. */
  readonly behind?: readonly { readonly prefix: string; readonly offers?: readonly string[] }[];
  /** Kilobits a second down and up that it takes; absent: a little. */
  readonly takes?: readonly [down: number, up: number];
}
export type WorldClient = AirClient | WiredClient;
/** Who is cabled to what: all that the controller has to find out by listening. */
export interface WorldFile {
  readonly format: 'iron-lattice.world/1';
  readonly devices: readonly WorldDevice[];
  /** Pairs of `SERIAL:port`. */
  readonly cables: readonly (readonly [string, string])[];
  readonly providers: readonly WorldProvider[];
  /** Routers of others. */
  readonly routers?: readonly WorldRouter[];
  /** Gateways of others on the internet. */
  readonly farGateways?: readonly FarGateway[];
  readonly clients: readonly WorldClient[];
  /** Addresses at which servers elsewhere answer the relays of gateways. */
  readonly addressServers?: readonly string[];
  /** Names that the internet's name servers know. */
  readonly names?: Readonly<Record<string, string>>;
  /** Who asks for what from outside, such as `tcp 443`, at uplinks of gateways, `SERIAL:port`, each time that is counted. */
  readonly knocks?: readonly { readonly from: string; readonly at: string; readonly asks: string }[];
  /** Where the controller answers, as devices see it. */
  readonly controller?: string;
  readonly air?: AirFile;
}

const socket = Joi.string().pattern(/^[0-9A-Z-]+:[0-9a-z]+$/);
const text = Joi.string().required();
/** How a client says who it is. */
export const entersShape = Joi.object({
  method: Joi.valid(...EAP_METHODS, 'eap-tls').required(),
  user: text,
  password: Joi.string().allow('').required(),
  believes: Joi.valid('stand-ins'),
});
const said = Joi.array().items(Joi.string());
const takes = Joi.array().items(Joi.number().min(0)).length(2);
const schema = Joi.object({
  format: Joi.string().valid('iron-lattice.world/1').required(),
  devices: Joi.array()
    .items(
      Joi.object({
        serial: text,
        model: text,
        mac: text,
        firmware: text,
        sheet: Joi.object(),
        waits: Joi.valid(true),
        at: Joi.string().ip(),
        off: Joi.valid(true),
      }),
    )
    .required(),
  cables: Joi.array().items(Joi.array().items(socket).length(2)).required(),
  providers: Joi.array().items(providerShape),
  routers: Joi.array().items(routerShape),
  farGateways: Joi.array().items(farGatewayShape),
  names: Joi.object().pattern(Joi.string().hostname(), Joi.string().ip()),
  knocks: Joi.array().items(
    Joi.object({ from: Joi.string().ip().required(), at: Joi.string().required(), asks: Joi.string().required() }),
  ),
  clients: Joi.array().items(
    Joi.object({
      mac: text,
      name: Joi.string().hostname(),
      near: text,
      ssid: text,
      passphrase: Joi.string(),
      enters: entersShape,
      bands: Joi.array().items(Joi.valid('2.4', '5', '6')),
      phy: Joi.valid('HT', 'VHT', 'HE', 'EHT'),
      streams: Joi.number(),
      width: Joi.valid(20, 40, 80, 160),
      old: Joi.valid(true),
      likes: Joi.valid('2.4', '5', '6'),
      talks: said,
      offers: said,
      takes,
    }),
    Joi.object({
      mac: text,
      name: Joi.string().hostname(),
      at: socket.required(),
      watts: Joi.number().min(0).max(100),
      address: Joi.string().ip(),
      enters: entersShape,
      talks: said,
      offers: said,
      behind: Joi.array().items(Joi.object({ prefix: Joi.string().ip({ cidr: 'required' }).required(), offers: said })),
      takes,
    }),
  ),
  addressServers: Joi.array().items(Joi.string().ip()),
  controller: Joi.string().ip(),
  air: airSchema,
});

/** Checks a world. @throws Error naming the place when it is not one, or a cable ends at a device it lacks. */
export function checkWorld(value: unknown): WorldFile {
  const { error } = schema.validate(value);
  if (error) throw new Error(`not a world file: ${error.message}`);
  const world = value as WorldFile;
  const serials = new Set(world.devices.map((device) => device.serial));
  for (const end of world.cables.flat()) {
    if (!serials.has(end.split(':')[0]!)) throw new Error(`cable end ${end} is at no device of this world`);
  }
  return world;
}

/** Reads a world file. */
export const readWorld = (path: string): WorldFile => checkWorld(JSON.parse(readFileSync(path, 'utf8')));
