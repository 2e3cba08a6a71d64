import { BANDS, type Band } from '../../hardware';
import { WIDTHS, type Phy } from '../../radio';
import { Joi, type Shapes } from '../../schema';

/** A probe that tries the speed of a radio: where it stands, and what it can do. */
export interface SpeedTry {
  readonly band: Band;
  /** How far from the AP it stands, in metres. */
  readonly metres: number;
  readonly phy: Phy;
  readonly streams: number;
  /** Widest it does, in MHz. */
  readonly width: number;
  /** Id of the SSID it joins; absent: none, and no cap is met. */
  readonly ssid?: string;
  /** Id of the class that it is of there; absent: of none. */
  readonly classId?: string;
  /** How many such probes try at once; absent: one. */
  readonly count?: number;
}

/** Most probes that try at once. */
export const MOST_PROBES = 20;

/** What can be the narrowest of the way from a client to whom it asks. */
export const PARTS = ['air', 'mesh', 'cap', 'cable', 'uplink', 'far end'] as const;
export type SpeedPart = (typeof PARTS)[number];

/** What a probe measured: speeds in Mb/s, times in milliseconds. */
export interface SpeedGot {
  readonly down: number;
  readonly up: number;
  readonly latency: number;
  /** What the air alone let through. */
  readonly airDown: number;
  readonly airUp: number;
  readonly narrowest: SpeedPart;
  /** Whose cap it is, where that is the narrowest. */
  readonly cap?: string;
  /** Down and up of each of several probes; `down` and `up` are those of the slowest. */
  readonly each?: readonly (readonly [down: number, up: number])[];
  /** As the probe heard the AP, in dBm. */
  readonly signal: number;
  /** Where the radio sent: primary channel, number of the middle, width in MHz, EIRP in dBm. */
  readonly channel: number;
  readonly centre: number;
  readonly width: number;
  readonly power: number;
}

const rate = Joi.number().min(0).max(100_000).required();
const decibel = Joi.number().min(-130).max(60).required();
const channel = Joi.number().integer().min(1).max(233).required();
export const speedTryShape = Joi.object({
  band: Joi.valid(...BANDS).required(),
  metres: Joi.number().min(1).max(200).required(),
  phy: Joi.valid('HT', 'VHT', 'HE', 'EHT').required(),
  streams: Joi.number().integer().min(1).max(8).required(),
  width: Joi.number()
    .valid(...WIDTHS)
    .required(),
  ssid: Joi.string().max(64),
  classId: Joi.string().max(64),
  count: Joi.number().integer().min(1).max(MOST_PROBES),
} satisfies Shapes<SpeedTry>);
export const speedGotShape = Joi.object({
  down: rate,
  up: rate,
  latency: Joi.number().min(0).max(60_000).required(),
  airDown: rate,
  airUp: rate,
  narrowest: Joi.valid(...PARTS).required(),
  cap: Joi.string().max(120),
  each: Joi.array().items(Joi.array().items(rate).length(2)).max(MOST_PROBES),
  signal: decibel,
  channel,
  centre: channel,
  width: Joi.number()
    .valid(...WIDTHS)
    .required(),
  power: decibel,
} satisfies Shapes<SpeedGot>);
