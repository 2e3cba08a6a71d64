import type { RadioDomain } from './radio-rules';

/** Frequencies in MHz at which radar has the right of way, and those of weather radar among them (EN 301 893 §4.2.6; 47 CFR 15.407(h)). */
const RADAR: readonly (readonly [number, number])[] = [
  [5250, 5350],
  [5470, 5725],
];
const WEATHER: readonly [number, number] = [5600, 5650];

/** How a channel is shared with radar. */
export interface RadarDuty {
  readonly radar: boolean;
  /** How long is listened before it is used, in seconds (channel availability check). */
  readonly listenSeconds: number;
  /** How long it rests once radar was heard, in seconds (non-occupancy period). */
  readonly restSeconds: number;
}

const [LISTEN, LISTEN_FOR_WEATHER, REST] = [60, 600, 1800];

/** What a channel of 5 GHz owes to radar: any part of it counts. @param centreMhz and width in MHz. */
export function radarDuty(domain: RadioDomain['code'], centreMhz: number, width: number): RadarDuty {
  const [low, high] = [centreMhz - width / 2, centreMhz + width / 2];
  const meets = ([from, to]: readonly [number, number]): boolean => low < to && high > from;
  if (!RADAR.some(meets)) return { radar: false, listenSeconds: 0, restSeconds: 0 };
  const weather = (domain === 'ETSI' || domain === 'UK') && meets(WEATHER);
  return { radar: true, listenSeconds: weather ? LISTEN_FOR_WEATHER : LISTEN, restSeconds: REST };
}
