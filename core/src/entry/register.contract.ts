/** Days that somebody may be kept for in the register after it was last seen, and what is kept at first. */
export const KEPT_DAYS = { least: 1, most: 730, usual: 90 } as const;
/** Characters of a client's own name, and of what is noted of it. */
export const MOST_CLIENT_TEXT = { name: 64, note: 500 } as const;
/** Clients that are told at once: those seen last. */
export const MOST_REGISTERED_TOLD = 5000;

/** Where a client was last, and as what. */
export interface ClientStay {
  readonly siteId: string | null;
  readonly site: string;
  readonly device: string;
  readonly ssid: string | null;
  readonly port: string | null;
  /** Name of the segment, or its VLAN where the site has none of it any more. */
  readonly segment: string;
  /** Name of its class; empty: none. */
  readonly accessClass: string;
  /** Who it proved to be, and which server said so; empty: nobody, none. */
  readonly user: string;
  readonly server: string;
  readonly address: string;
  /** ISO 8601; of one that is here, when it was told last. */
  readonly firstAt: string;
  readonly lastAt: string;
  readonly here: boolean;
  /** How often it came. */
  readonly times: number;
}

/** A client that was ever seen, and is not erased. */
export interface RegisteredClient {
  readonly mac: string;
  /** The name that people gave it, and what they noted; empty: nothing. */
  readonly name: string;
  readonly note: string;
  /** As it called itself when it asked for an address; empty when it did not. */
  readonly said: string;
  /** ISO 8601: at any place. */
  readonly firstAt: string;
  readonly lastAt: string;
  readonly here: boolean;
  /** Where it was last. */
  readonly last: ClientStay;
}

export interface RegisterView {
  readonly clients: readonly RegisteredClient[];
  /** How many there are that fit what was asked for; not counted further than `MOST_COUNTED`. */
  readonly count: number;
}
/** So far clients of the register are counted. */
export const MOST_COUNTED = 100_000;

/** What of clients is kept. */
export interface RegisterKeeping {
  /** Days after which somebody is erased who was not seen again. */
  readonly days: number;
  /** Sites of whose clients nothing is kept. */
  readonly siteIds: readonly string[];
  /** SSIDs of whose clients nothing is kept. */
  readonly ssidIds: readonly string[];
}

/** What would be erased at once. */
export interface RegisterErased {
  /** Clients of whom nothing would be left, and how many of those have a name or a note. */
  readonly clients: number;
  readonly noted: number;
  /** Places of others that would be forgotten. */
  readonly places: number;
}

/** Whether a MAC address was made up by its client, which may come with another next time (IEEE 802-2014 §8.4: locally administered). */
export const isMadeUpMac = (mac: string): boolean => (Number.parseInt(mac.slice(0, 2), 16) & 0b10) !== 0;
