import {
  EAP_METHODS,
  ENDS,
  MAC_FORMATS,
  METHODS,
  MOST_ECHOED,
  MOST_NAMED_KEYS,
  MOST_TOLD,
  type AskedFor,
  type AskedServer,
  type Credentials,
  type Exchange,
  type NamedKey,
  type SaidAttribute,
  type SaidPacket,
} from '../../radius';
import { Joi, type Shapes } from '../../schema';
import { short } from './fields';

/** A RADIUS server that a device is to ask for somebody. */
export interface EntryTry {
  readonly server: AskedServer;
  readonly asked: AskedFor;
  /** Address of the gateway that asks it for this device; absent: it asks itself. */
  readonly through?: string;
}

/** Characters of an authority’s certificates. */
export const MOST_AUTHORITY = 20_000;

const server = {
  name: short.required(),
  own: Joi.valid(true),
  address: Joi.string().max(253).allow('').required(),
  port: Joi.number().port().required(),
  secret: Joi.string().max(128).required(),
  timeout: Joi.number().min(0.1).max(30).required(),
  tries: Joi.number().integer().min(1).max(10).required(),
  macs: Joi.valid(...MAC_FORMATS).required(),
  unsigned: Joi.valid(true),
  authority: Joi.string().max(MOST_AUTHORITY).meta({ lines: true }),
  certificateName: Joi.string().max(253),
} satisfies Shapes<AskedServer>;
const asked = {
  method: Joi.valid(...METHODS).required(),
  user: Joi.string().max(253).allow('').required(),
  password: Joi.string().max(128).allow('').required(),
  mac: Joi.string().pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/),
  at: Joi.string().max(64),
  gives: Joi.string().max(64),
} satisfies Shapes<AskedFor>;
export const entryTryShape = Joi.object({
  server: Joi.object(server).required(),
  asked: Joi.object(asked).required(),
  through: Joi.string().ip(),
} satisfies Shapes<EntryTry>);

const credentials = {
  method: Joi.valid(...EAP_METHODS).required(),
  user: Joi.string().max(253).required(),
  password: Joi.string().max(128).allow('').required(),
} satisfies Shapes<Credentials>;
/** How a pretend client says who it is: by a name and a password. */
export const credentialsShape = Joi.object(credentials);

const attribute = {
  name: short.required(),
  value: Joi.string().max(1100).allow('').required(),
} satisfies Shapes<SaidAttribute>;
const packet = {
  from: Joi.valid('us', 'server').required(),
  name: short.required(),
  at: Joi.number().min(0).required(),
  attributes: Joi.array().items(Joi.object(attribute)).max(MOST_TOLD.attributes).required(),
} satisfies Shapes<SaidPacket>;
const vlan = {
  kind: Joi.valid('id', 'name', 'none', 'wrong').required(),
  text: Joi.string().max(1100).allow('').required(),
} satisfies Shapes<Exchange['vlan']>;
export const exchangeShape = Joi.object({
  end: Joi.valid(...ENDS).required(),
  why: Joi.string().max(1200).allow('').required(),
  address: Joi.string().max(253).allow(null).required(),
  packets: Joi.array().items(Joi.object(packet)).max(MOST_TOLD.packets).required(),
  sent: Joi.number().integer().min(0).max(1000).required(),
  ms: Joi.number().min(0).required(),
  filterIds: Joi.array().items(Joi.string().max(1100).allow('')).max(MOST_TOLD.attributes).required(),
  vlan: Joi.object(vlan).required(),
  sessionSeconds: Joi.number().integer().min(0).allow(null).required(),
  certificate: Joi.object({
    names: Joi.array().items(Joi.string().max(300).allow('')).max(30).required(),
    issuer: Joi.string().max(300).allow('').required(),
    until: Joi.string().max(40).required(),
    sha256: Joi.string().hex().length(64).required(),
    trust: Joi.valid('yes', 'no', 'unchecked').required(),
  }),
  keys: Joi.boolean(),
  echo: Joi.array().items(Joi.string().hex().max(506).allow('')).max(MOST_ECHOED),
  ring: Joi.array()
    .items(
      Joi.object({
        vlan: Joi.object(vlan).required(),
        given: Joi.valid(true),
        unfit: Joi.valid(true),
      } satisfies Shapes<NamedKey>),
    )
    .max(MOST_NAMED_KEYS),
} satisfies Shapes<Exchange>);
