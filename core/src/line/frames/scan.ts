import { BANDS, type Band } from '../../hardware';
import { WIDTHS } from '../../radio';
import { Joi, type Shapes } from '../../schema';

/** A network that was heard. */
export interface HeardNetwork {
  readonly bssid: string;
  /** Empty: it does not say its name. */
  readonly ssid: string;
  readonly band: Band;
  /** Primary channel, number of the middle of the whole, and width in MHz. */
  readonly channel: number;
  readonly centre: number;
  readonly width: number;
  /** In dBm. */
  readonly signal: number;
  readonly security: string;
  /** Of its BSS Load element (IEEE 802.11-2020 §9.4.2.27): clients, and the share of the time that it finds its channel busy. */
  readonly clients?: number;
  readonly load?: number;
}

/** A channel of 20 MHz as it was heard: the share of the time that it was busy, and its noise in dBm. */
export interface HeardChannel {
  readonly band: Band;
  readonly channel: number;
  readonly busy: number;
  readonly noise: number;
}

/** What an AP heard on its bands. */
export interface ScanReport {
  readonly networks: readonly HeardNetwork[];
  readonly channels: readonly HeardChannel[];
}

/** Networks that one scan may tell of. */
export const MOST_HEARD = 1000;

const band = Joi.valid(...BANDS).required();
const channel = Joi.number().integer().min(1).max(233).required();
const decibel = Joi.number().min(-130).max(60).required();
const share = Joi.number().min(0).max(1);
const network = {
  bssid: Joi.string()
    .pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/)
    .required(),
  ssid: Joi.string().max(32).allow('').required(),
  band,
  channel,
  centre: channel,
  width: Joi.number()
    .valid(...WIDTHS)
    .required(),
  signal: decibel,
  security: Joi.string().max(24).required(),
  clients: Joi.number().integer().min(0).max(65_535),
  load: share,
} satisfies Shapes<HeardNetwork>;
const heardChannel = { band, channel, busy: share.required(), noise: decibel } satisfies Shapes<HeardChannel>;

export const scanShape = Joi.object({
  networks: Joi.array().items(Joi.object(network)).max(MOST_HEARD).required(),
  channels: Joi.array().items(Joi.object(heardChannel)).max(120).required(),
} satisfies Shapes<ScanReport>);
