import type { AskingWay, RingKey } from '../document';
import type { Band } from '../hardware';
import type { Link } from '../intent';
import type { Documents } from '../lattice';
import type { PathMeasure } from '../paths';
import type { Credentials, Exchange } from '../radius';
import type { WalkStep } from './walk-step';

/** MAC address of a probe that takes nobody's; locally administered. */
export const PROBE_MAC = '02:00:00:00:00:01';

/** A pretend client on an SSID, in reach of one AP. */
export interface Probe {
  readonly ssidId: string;
  readonly apId: string;
  readonly band: Band;
  /** Whether it knows the SSID's passphrase. */
  readonly knowsPassphrase: boolean;
  /** Whether it knows the passphrase that was right before, and not this one. */
  readonly former?: boolean;
  /** Id of the key of a ring that it gives; absent: one that is in no ring. */
  readonly key?: string;
  /** The key that it gives where servers name the keys of a ring; absent: none. */
  readonly gives?: string;
  /** Who it says to be where that is asked (802.1X); absent: it does not say. */
  readonly entry?: Credentials;
  /** Whether it is of a time before WPA3 and OWE (802.11-2016): it does neither. */
  readonly old?: boolean;
  /** Whose MAC address it takes, canonical; absent: one of its own that nobody knows. */
  readonly mac?: string;
  /** Whether it is a guest who has signed in at the portal that holds it. */
  readonly letIn?: boolean;
}

/** A pretend client that is plugged into a port. */
export interface PortProbe {
  readonly deviceId: string;
  readonly port: string;
  /** Who it says to be where that is asked (802.1X); absent: it does not say. */
  readonly entry?: Credentials;
  /** Whose MAC address it takes, canonical; absent: one of its own that nobody knows. */
  readonly mac?: string;
  /** Whether it is a guest who has signed in at the portal that holds it. */
  readonly letIn?: boolean;
}
export type AnyProbe = Probe | PortProbe;
export const isPlugged = (probe: AnyProbe): probe is PortProbe => 'port' in probe;

/** What somebody walks to, beside the internet. */
export interface WalkTarget {
  /** An address of IPv4. */
  readonly address: string;
  /** How what the gateway sends there is lost; absent: it is not, as far as is known. */
  readonly lost?: { readonly title: string; readonly why: string };
}

/** What the world reports that documents do not say. */
export interface WalkFacts {
  /** Addresses that are leased or otherwise taken, canonical text. */
  readonly taken: ReadonlySet<string>;
  /** Uplinks by `deviceId port`, as the gateway last reported them. */
  readonly uplinks: ReadonlyMap<string, UplinkFact>;
  /** Where the walk goes to; absent: to the internet. */
  readonly to?: WalkTarget;
  /** Minute of the week by the site’s clock, for rules and SSIDs with hours. */
  readonly minute: number;
  /** The key that it gives, where it is one of the ring’s. */
  readonly key?: HeldKey;
  /** Whether the far end of its AP’s tunnel does not answer, as the AP reports it. */
  readonly silent?: boolean;
  /** The other site to which its frames are carried; absent: they are not, or nothing of that is known. */
  readonly landing?: LandingFact;
  /** The moment by that clock, such as `2026-12-25 18:30`; absent: one at which every key is right that has a day. */
  readonly moment?: string;
  /** The day by it, such as `2026-12-25`; absent: one on which hours apply as in every week. */
  readonly day?: string;
  /** Where guests sign in, and what the portal that holds it lets them in for; absent: nothing of it is known. */
  readonly portal?: PortalFact;
  /** How it stands at the portal that holds it, where it takes the MAC address of a guest. */
  readonly guest?: GuestFact;
  /** What RADIUS servers said of it, in the order in which they were asked; absent: they were not. */
  readonly asked?: readonly AskedOne[];
  /** The same at a port, by the way in which it asks: those that were tried. */
  readonly askedBy?: Partial<Readonly<Record<AskingWay, readonly AskedOne[]>>>;
}
/** The other site to which a probe's frames are carried, as it is. */
export interface LandingFact {
  readonly siteId: string;
  /** Its name. */
  readonly name: string;
  /** How packets get there through tunnels between sites; one that does not pass ends it. */
  readonly way: readonly Pick<WalkStep, 'passed' | 'title' | 'detail'>[];
  readonly documents: Documents;
  readonly links: readonly Link[];
  /** Its gateway; null: none of ours is there. */
  readonly gatewayId: string | null;
  /** What it reports, and the time by its own clock. */
  readonly facts: Pick<WalkFacts, 'taken' | 'uplinks' | 'minute' | 'day' | 'to'>;
}

/** A portal as guests meet it. */
export interface PortalFact {
  /** The address of its page, such as `https://guests.skerrow.example`. */
  readonly url: string;
  /** What it is signed in by, in words. */
  readonly ways: readonly string[];
  /** What ends a visit, whichever is first, and what its guest does then, in words. */
  readonly limits: readonly string[];
  /** What it goes on slower after, and how fast, in words; absent: nothing. */
  readonly slows?: string;
  readonly after: string;
}
/** How a guest stands at the portal that holds it. */
export interface GuestFact {
  readonly letIn: boolean;
  readonly why: 'over' | 'rest' | 'idle' | 'quota' | 'hours' | null;
  /** Until when at most, such as `2026-12-25 18:30` by the site’s clock. */
  readonly until: string;
  /** Octets that are left today; null: any. */
  readonly left: number | null;
  /** These are used up, and it goes on slower. */
  readonly slowed?: boolean;
}
/** A server that was asked for a probe, and what it said. */
export interface AskedOne {
  readonly server: string;
  readonly exchange: Exchange;
}
/** A key of a ring, without itself. */
export interface HeldKey extends Omit<RingKey, 'key'> {
  readonly name: string;
}

export interface UplinkFact {
  readonly up: boolean;
  /** The address the provider gave, or null. */
  readonly address: string | null;
  /** Whether whatever is asked through it answers, and it may be used; absent: it was not told. */
  readonly good?: boolean;
  /** How it is lately. */
  readonly measure?: PathMeasure;
  /** IPv6 that its provider gave; absent: none. */
  readonly six?: { readonly prefix?: string };
}
