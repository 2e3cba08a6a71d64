import { Joi } from '@iron-lattice/core/schema';

/** What a provider gives by IPv6. */
export interface WorldSix {
  /** What its router advertises (RFC 4862), and the router. */
  readonly network: string;
  readonly router: string;
  /** What it delegates to who asks (RFC 8415), or leads to an address that was agreed on. */
  readonly prefix?: string;
  /** An address that was agreed on beforehand. */
  readonly fixed?: string;
}

/** An internet provider: the gateway ports it is cabled to, and the address each is given. */
export interface WorldProvider {
  readonly name: string;
  /** Address by `SERIAL:port`. */
  readonly gives: Readonly<Record<string, string>>;
  /** What it lets through down and up, in Mb/s, and how long a packet is under way there and back, in milliseconds. */
  readonly mbps?: readonly [down: number, up: number];
  readonly latency?: number;
  /** The router that takes packets on, by port; absent: the first address of what looks like the subnet. */
  readonly router?: Readonly<Record<string, string>>;
  readonly dns?: readonly string[];
  /** Addresses of its own from which it hands everything on to a port, whose address is its private one: `SERIAL:port` by address. */
  readonly forwards?: Readonly<Record<string, string>>;
  /** IPv6, by port. */
  readonly six?: Readonly<Record<string, WorldSix>>;
  /** How it wants to be asked for an address; absent: by DHCP, untagged. */
  readonly asks?: {
    readonly vlan?: number;
    readonly login?: { readonly user: string; readonly password: string };
    readonly apn?: string;
    /** It answers no DHCP: addresses are agreed on beforehand. */
    readonly fixed?: true;
  };
}

const socket = Joi.string().pattern(/^[0-9A-Z-]+:[0-9a-z]+$/);
const text = Joi.string().required();
/** A provider of a world file. */
export const providerShape = Joi.object({
  name: text,
  gives: Joi.object().pattern(socket, Joi.string().ip()),
  mbps: Joi.array().items(Joi.number()).length(2),
  latency: Joi.number(),
  router: Joi.object().pattern(socket, Joi.string().ip()),
  dns: Joi.array().items(Joi.string().ip()),
  forwards: Joi.object().pattern(Joi.string().ip(), Joi.string()),
  six: Joi.object().pattern(
    socket,
    Joi.object({ network: text, router: Joi.string().ip().required(), prefix: Joi.string(), fixed: Joi.string() }),
  ),
  asks: Joi.object({
    vlan: Joi.number().integer(),
    login: Joi.object({ user: text, password: text }),
    apn: Joi.string(),
    fixed: Joi.valid(true),
  }),
});
