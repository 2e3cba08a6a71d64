import type { MatrixEnd } from '../assess';
import type { AskingDocument, SsidSecurity } from '../document';
import type { Credentials, SaidAttribute } from '../radius';
import type { Reach } from '../rules';
import type { AskedOne } from './probe';

/** Somebody who is asked about: a name, or a MAC address; what is known of each, and what is taken to be where it is not. */
export interface Whom {
  /** Lower case with colons; null: one that nobody knows. */
  readonly mac: string | null;
  /** Name of the user; null: it does not say who it is. */
  readonly user: string | null;
  /** Groups where this controller keeps somebody by that name, or the device; null: it keeps none. */
  readonly groups: readonly string[] | null;
  /** Why a user that is kept is turned away; null: nothing keeps it out. */
  readonly barred: string | null;
  /** Name of the class that another server is taken to name; null: it names none. */
  readonly assumed: string | null;
}

/** Where somebody would come in. */
export type GetsPlace =
  | { readonly kind: 'ssid'; readonly id: string; readonly name: string; readonly security: SsidSecurity }
  | {
      readonly kind: 'ports';
      /** What the ports ask, and who they are: `brin-sw-1 port 3`. */
      readonly asks: NonNullable<AskingDocument['auth']>;
      readonly ports: readonly { readonly deviceId: string; readonly port: string; readonly name: string }[];
    };

/** A limit somebody meets one way: the tightest. */
export interface GetsRate {
  /** Kilobits a second; null: nothing limits it. */
  readonly kbps: number | null;
  /** Whose it is; empty: nobody’s. */
  readonly by: string;
}

/** What somebody would get at a place. */
export interface Gets {
  readonly place: GetsPlace;
  /** How they are asked, in words. */
  readonly how: string;
  /** Name of the server whose word decides; null: none is asked. */
  readonly server: string | null;
  /** Whether what that server says is taken to be so, and not known here. */
  readonly assumed: boolean;
  /** What it answers, as far as it leads somewhere. */
  readonly attributes: readonly SaidAttribute[];
  /** What decides, object by object, in sentences. */
  readonly because: readonly string[];
  readonly accessClass: { readonly id: string; readonly name: string } | null;
  readonly segment: {
    readonly id: string;
    readonly name: string;
    readonly vlan: number;
    readonly subnet: string;
    /** What its address is out of; null: nobody gives any. */
    readonly range: string | null;
  } | null;
  /** Why they are not let in; null: they are. */
  readonly stops: string | null;
  readonly down: GetsRate;
  readonly up: GetsRate;
  /** Minutes; null: without an end. */
  readonly session: number | null;
  readonly idle: number | null;
  /** The place of the reach matrix that is theirs; null: they are nowhere. */
  readonly reachKey: string | null;
}

/** What somebody would reach from there. */
export interface GetsReach {
  readonly to: string;
  readonly kind: MatrixEnd['kind'];
  readonly reach: Reach;
}

/** What somebody would get at a place, with what they would reach. */
export interface GetsRow extends Gets {
  readonly reach: readonly GetsReach[];
  /** Rules that decide of what they send, by name; those of their own place first. */
  readonly rules: readonly { readonly id: string; readonly name: string }[];
}

/** What a place loses with a server. */
export interface LosesServer {
  /** The SSID, or ports that are alike. */
  readonly where: string;
  /** Name of the server that is asked instead; null: none is. */
  readonly next: string | null;
  readonly words: string;
}

/** What happens when a server does not answer any more. */
export interface IfServerDies {
  readonly rows: readonly LosesServer[];
  /** How many are there now whom it let in. */
  readonly standing: number;
}

/** Who is asked about. */
export interface GetsRequest {
  readonly siteId: string;
  /** A user name or a MAC address. */
  readonly who: string;
  /** Id of the class that another server is taken to name; null: none. */
  readonly assumedId: string | null;
}

export interface GetsAnswer {
  readonly whom: Whom;
  readonly rows: readonly GetsRow[];
}

/** What is really tried at a place. */
export interface GetsTry extends GetsRequest {
  readonly place: { readonly ssidId: string } | { readonly deviceId: string; readonly port: string };
  /** How it proves who it is; null: by its MAC address. */
  readonly entry: Credentials | null;
}

/** What came of it. */
export interface GetsTried {
  /** Who asked, and what was said, server by server. */
  readonly device: string;
  readonly asked: readonly AskedOne[];
  /** What is got; what stops it where nothing is. */
  readonly accessClass: string | null;
  readonly segment: string | null;
  readonly stops: string | null;
  /** The same as it was computed, and where reality differs from it, in sentences. */
  readonly differs: readonly string[];
}
