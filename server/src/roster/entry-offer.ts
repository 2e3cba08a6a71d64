import type { AskedOne } from '@iron-lattice/core/bench';
import type { RadiusDocument } from '@iron-lattice/core/document';
import type { EstatePart } from '@iron-lattice/core/intent';
import type { AskedFor } from '@iron-lattice/core/radius';
import { offer } from '../platform/offers';

/** Whom a device is to ask servers for. */
export interface EntryQuestion {
  readonly deviceId: string;
  readonly siteId: string;
  /** The servers, as the device is told of them or would be. */
  readonly radius: RadiusDocument;
  /** What says which authority each is believed by, and the classes that the controller itself answers with. */
  readonly estate: EstatePart;
  readonly asked: AskedFor;
}

/** What RADIUS servers really say of somebody, one after the other, until one answers at all. */
export type EntryTeller = (question: EntryQuestion) => Promise<readonly AskedOne[]>;

/** What servers say of people and devices, for whoever walks as one. */
export const ENTRY = offer<EntryTeller>('what RADIUS servers say');
