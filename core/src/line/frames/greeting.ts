import { FIRST_WAYS, type FirstUplink } from '../../document';
import { Joi, type Shapes } from '../../schema';
import { clock, hash, short, text, type FrameShapes } from './fields';

/** How a line begins: who calls, that it is really that one, and whether it is welcome. */
export type GreetingFromDevice =
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
  | {
      readonly type: 'proof';
      readonly signature: string;
      /** In factory state: how it comes to an address by what somebody said at its own page; absent: nothing was said. */
      readonly first?: FirstUplink<string>;
    };
export type GreetingFromController =
  | { readonly type: 'challenge'; readonly nonce: string }
  | {
      readonly type: 'welcome';
      readonly claimed: boolean;
      readonly reportSeconds: number;
      readonly now?: number;
      /** UDP port at which the controller answers who somebody is (RADIUS); absent: it does not. */
      readonly entry?: number;
      /** Where guests sign in: `https://` or `http://`, a host, maybe a port; absent: nowhere. */
      readonly portal?: string;
    }
  | { readonly type: 'refusal'; readonly code: string; readonly reason: string };

/** What somebody said at a gateway’s own page. Whether it can be so is looked at by what knows its model. */
export const firstShape = Joi.object({
  port: short.required(),
  way: Joi.string()
    .valid(...FIRST_WAYS)
    .required(),
  fixed: Joi.object({ address: short.required(), gateway: short.required() }),
  login: Joi.object({
    user: Joi.string().max(128).required(),
    password: Joi.string().max(128).required(),
  }),
  apn: Joi.string().max(100),
  vlan: Joi.number().integer(),
  mac: short,
  dns: Joi.array().items(short).max(3),
} satisfies Shapes<FirstUplink<string>>);

export const greetingFrames = {
  device: {
    hello: {
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
    },
    proof: { signature: Joi.string().base64().max(128).required(), first: firstShape },
  } satisfies FrameShapes<GreetingFromDevice>,
  controller: {
    challenge: { nonce: Joi.string().base64().min(32).max(128).required() },
    welcome: {
      claimed: Joi.boolean().required(),
      reportSeconds: Joi.number().min(0.01).max(3600).required(),
      now: Joi.number().integer(),
      entry: Joi.number().port(),
      portal: Joi.string()
        .uri({ scheme: ['http', 'https'] })
        .max(300),
    },
    refusal: { code: short.required(), reason: text.required() },
  } satisfies FrameShapes<GreetingFromController>,
};
