import type { AskedWay, Language, Said } from '@iron-lattice/core/guests';

/** What a guest said, as it is kept. */
export interface AskRow {
  readonly id: string;
  readonly portal_id: string;
  readonly site_id: string;
  readonly device_id: string;
  /** Name of the SSID. */
  readonly place: string;
  readonly mac: string;
  readonly way: AskedWay;
  readonly language: Language;
  readonly terms: string | null;
  /** Mail address or phone number of the guest. */
  readonly contact: string | null;
  readonly contact_by: 'mail' | 'phone' | null;
  readonly said: Said;
  /** Whom it visits: the name of a group, or an address. */
  readonly whom: string | null;
  /** Addresses that were asked. */
  readonly sponsors: string[];
  /** The code that was sent, as it is recognised by. */
  readonly print: string | null;
  /** How often another was given. */
  readonly wrong: number;
  /** Whether it was let in for first minutes. */
  readonly first: boolean;
  readonly at: Date;
  readonly until: Date;
  readonly state: 'open' | 'yes' | 'no' | 'left';
  readonly answered_at: Date | null;
  readonly answered_by: string | null;
}
