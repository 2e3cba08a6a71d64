import type { Band } from '../hardware';

/** What is known of a site's air from what its APs heard, as far as findings ask. */
export interface AirFacts {
  /** What of a signal is lost between two APs, in dB, as measured. */
  readonly near: readonly { readonly band: Band; readonly a: string; readonly b: string; readonly loss: number }[];
  /** Networks of strangers that say a name. */
  readonly strangers: readonly {
    readonly bssid: string;
    readonly ssid: string;
    readonly band: Band;
    readonly channel: number;
    /** APs that hear it, the loudest first, in dBm. */
    readonly heardBy: readonly { readonly deviceId: string; readonly signal: number }[];
  }[];
}

/** Of a site, that many at the most are kept: the loudest. */
export const [MOST_NEAR, MOST_STRANGERS] = [4000, 400];
