/** Kinds of hitches, by what has to be done about them. */
export type HitchCode =
  | 'key' // another key than the one we know, or than the label's
  | 'clock'
  | 'model' // no hardware sheet
  | 'other-model' // expected as another model
  | 'other-mac' // expected with another MAC address
  | 'firmware' // too old to hold the line
  | 'mac' // two devices with one MAC address
  | 'hash' // runs a document nobody sent
  | 'flapping'
  | 'uplink' // an uplink has no address
  | 'claim' // expected, but could not be claimed
  | 'version' // speaks another version of the line
  | 'frame' // says what cannot be read or kept
  | 'flood'; // more of one kind than is listed one by one

/**
 * Something that keeps a device from coming in or from staying in step, listed with its reason until it is settled:
 * by itself, when the reason has gone, or by a person.
 */
export interface HitchView {
  readonly id: string;
  readonly code: HitchCode;
  readonly serial: string;
  readonly deviceId: string | null;
  readonly siteId: string | null;
  /** Name, or the serial number of a device without one. */
  readonly who: string;
  /** What happened, in a sentence. */
  readonly reason: string;
  /** What to do about it, in a sentence. */
  readonly next: string;
  /** What trying again does, as the words of its button. */
  readonly retry: string;
  readonly times: number;
  readonly firstAt: string;
  readonly lastAt: string;
}

/** Clocks further off than this, in milliseconds, are a hitch: schedules and logs would mislead. */
export const CLOCK_TOLERANCE_MS = 60_000;
/** So many calls within the time below, and a device flaps. */
export const FLAPPING = { calls: 6, withinMs: 10 * 60_000 } as const;

/** Whether a device's latest calls mean that it flaps. @param calls moments in milliseconds, any order. */
export const flaps = (calls: readonly number[], now: number): boolean =>
  calls.filter((at) => now - at < FLAPPING.withinMs).length >= FLAPPING.calls;

/** Says a span of time the way people do: `3 h 12 min`. @param ms may be negative; its sign is left out. */
export function spanWords(ms: number): string {
  const minutes = Math.round(Math.abs(ms) / 60_000);
  if (minutes < 1) return `${Math.round(Math.abs(ms) / 1000)} s`;
  if (minutes < 60) return `${minutes} min`;
  if (minutes < 2880) return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
  return `${Math.round(minutes / 1440)} days`;
}
