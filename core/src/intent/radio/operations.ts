import type { Band } from '../../hardware';
import type { OfSite } from '../kept-list';
import type { BandEntry, RadioEntry } from './radio';

/** All that was said of a band of the site; null: nothing. */
export interface BandOperation extends OfSite {
  readonly type: 'radio.band';
  readonly band: Band;
  readonly from: BandEntry | null;
  readonly to: BandEntry | null;
}

/** All that was said of one radio of a device; null: nothing. */
export interface RadioSetOperation extends OfSite {
  readonly type: 'radio.set';
  readonly deviceId: string;
  readonly band: Band;
  readonly from: RadioEntry | null;
  readonly to: RadioEntry | null;
}

export type RadioOperation = BandOperation | RadioSetOperation;
