import { Joi } from '../schema';

/** Who asks to be let in, as the device that holds it back says it. */
export interface PortalClaim {
  /** Serial number of the device that says it. */
  readonly serial: string;
  /** Id of the portal. */
  readonly portal: string;
  /** MAC address of the client, lower case with colons. */
  readonly mac: string;
  /** Name of the SSID, or of the port. */
  readonly at: string;
  /** The page that was asked for. */
  readonly url?: string;
  /** When it was said, in milliseconds since 1970, by the controller’s clock as the device was told it. */
  readonly said: number;
  /** What no other has. */
  readonly nonce: string;
}

/** How long a token is right, in milliseconds, and how far ahead its time may be. */
export const [TOKEN_LIVES_MS, TOKEN_AHEAD_MS] = [5 * 60_000, 30_000];
/** Longest token, in characters. */
export const MOST_TOKEN = 3000;
/** Longest address of a page that is remembered, in characters. */
export const MOST_PAGE = 1000;

export const claimShape = Joi.object({
  serial: Joi.string().min(4).max(32).required(),
  portal: Joi.string().uuid().required(),
  mac: Joi.string()
    .pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/)
    .required(),
  at: Joi.string().min(1).max(64).required(),
  url: Joi.string().max(MOST_PAGE),
  said: Joi.number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required(),
  nonce: Joi.string().hex().length(32).required(),
});

/** What a device signs (Ed25519): a label, so that it is nothing else it ever signs, and the claim as it is sent. */
export const claimText = (payload: string): string => `iron-lattice guest 1\n${payload}`;
