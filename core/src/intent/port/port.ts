import type { PortAsks } from '../../document';

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
  /** Who may speak: anyone, one who proves who it is (IEEE 802.1X-2020), a known MAC address, or either in this order. */
  readonly auth: 'none' | PortAsks;
  /** At a port that asks, who may be there at once: several, one, or one and a desk phone whose frames are tagged. */
  readonly hosts: 'several' | 'one' | 'phone';
  /** Segment of desk phones, by id: whose class leads there tags its frames. */
  readonly voice: string | null;
  /** Segments by id for those who do not say who they are, are turned away, and whom no server answers about; null: they are not let in. */
  readonly guest: string | null;
  readonly rejected: string | null;
  readonly unanswered: string | null;
  /** Seconds for which who was turned away is left alone, and after which one is asked anew. */
  readonly quiet: number;
  readonly again: number;
  /** Whether its clients are kept from those of other isolated ports. */
  readonly isolated: boolean;
  /** Most broadcast and unknown traffic let through, in percent of the speed; 100: no limit. */
  readonly storm: number;
  /** Id of the hours that it is in use at; outside of them nothing passes, and it gives no power. Null: always. */
  readonly hours: string | null;
  /** Id of the portal that holds those whom nobody knows until they are let in as guests; null: none. */
  readonly portal: string | null;
  /** Ports with the same number act as one (IEEE 802.1AX-2020); null: alone. */
  readonly group: number | null;
}

/** What is kept of one port: its duty, and where it differs. */
export interface PortEntry extends Partial<PortFields> {
  readonly dutyId?: string;
}

/** Fields that hold a segment for some of the clients of a port that asks. */
export const ASKED_SEGMENTS = ['voice', 'guest', 'rejected', 'unanswered'] as const;

/** All that holds at a port. */
export interface PortSetting extends PortFields {
  readonly dutyId?: string;
}
