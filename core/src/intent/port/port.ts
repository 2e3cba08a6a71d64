/** Stands in a list of tagged segments for those that the site's SSIDs put their clients into. */
export const AIRED = 'aired';

/** Tagged segments by id, `AIRED` among them if wished, or every segment of the site. */
export type TaggedSegments = 'all' | readonly string[];

/** What is said of a port; a field that is absent is as the duty, else as the hardware has it. */
export interface PortFields {
  /** Segment id; null: untagged frames are dropped. */
  readonly untagged: string | null;
  readonly tagged: TaggedSegments;
  /** Whether the port gives power (IEEE 802.3 clause 145). */
  readonly poe: 'on' | 'off';
  /** Whose power goes last when the budget is short. */
  readonly priority: 'low' | 'high' | 'critical';
  /** Megabits a second, or as both ends agree. */
  readonly speed: number | 'auto';
  /** Who may speak: anyone, a supplicant (IEEE 802.1X-2020), or a known MAC address. */
  readonly auth: 'none' | '802.1X' | 'mac';
  /** Whether its clients are kept from those of other isolated ports. */
  readonly isolated: boolean;
  /** Most broadcast and unknown traffic let through, in percent of the speed; 100: no limit. */
  readonly storm: number;
  /** Id of the hours that it is in use at; outside of them nothing passes, and it gives no power. Null: always. */
  readonly hours: string | null;
  /** Ports with the same number act as one (IEEE 802.1AX-2020); null: alone. */
  readonly group: number | null;
}

/** What is kept of one port: its duty, and where it differs. */
export interface PortEntry extends Partial<PortFields> {
  readonly dutyId?: string;
}

/** All that holds at a port. */
export interface PortSetting extends PortFields {
  readonly dutyId?: string;
}
