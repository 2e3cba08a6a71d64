import type { Verdict } from './packet-rule';

/** An end of a rule, as people name it. */
export type RuleEnd =
  | { readonly kind: 'any' }
  | { readonly kind: 'segment'; readonly name: string }
  | { readonly kind: 'set'; readonly name: string }
  /** Host, prefix or range, as text. */
  | { readonly kind: 'addresses'; readonly text: string }
  /** Addresses of private space (RFC 1918, RFC 4193). */
  | { readonly kind: 'private' }
  /** Addresses that providers carry, as far as nobody of ours has them. */
  | { readonly kind: 'internet' }
  /** The segments that an SSID puts its clients into. */
  | { readonly kind: 'ssid'; readonly name: string }
  /** Clients that are given an access class. */
  | { readonly kind: 'class'; readonly name: string }
  /** A device of ours, at its fixed address. */
  | { readonly kind: 'device'; readonly name: string }
  /** The addresses the site's gateway has itself in the segments. */
  | { readonly kind: 'gateway' }
  /** Where this controller answers. */
  | { readonly kind: 'controller' };

/** Protocol and ports of a rule, as people name them. */
export interface RuleService {
  /** `any`, `tcp`, `udp`, `icmp`, or a protocol number. */
  readonly protocol: 'any' | 'tcp' | 'udp' | 'icmp' | number;
  /** Ports, ranges `1000-2000`, and named sets `set Web`; absent: all. */
  readonly ports?: readonly string[];
  readonly sourcePorts?: readonly string[];
  readonly type?: number;
  readonly code?: number;
}

/**
 * Where a rule takes effect: at the gateway, which remembers what it let through, or at the switches or APs, whose lists
 * judge each packet by itself.
 */
export type RulePlace = 'gateway' | 'switches' | 'aps';

/** A rule of a rulebook. */
export interface Rule {
  readonly id: string;
  readonly verdict: Verdict;
  /** Any of them. */
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  readonly services: readonly RuleService[];
  /** Kept, and not in force. */
  readonly off?: boolean;
  /** Whether a device notes each packet that begins something and that the rule decides. */
  readonly log?: boolean;
  /** Why it is there, in people's words. */
  readonly comment?: string;
  /** Where it is to take effect; absent: at the place that can do it. */
  readonly at?: RulePlace | null;
  /** When it is in force, by the site's clock; absent: always. */
  readonly times?: readonly WeekSpan[];
  /** Id of the hours that it is in force at, instead of times of its own. */
  readonly hours?: string | null;
}

/** The same hours on some days of the week; one that ends before it begins ends the day after. */
export interface WeekSpan {
  /** 1 Monday to 7 Sunday (ISO 8601), ascending. */
  readonly days: readonly number[];
  /** `08:30`. */
  readonly from: string;
  /** `24:00` at most; the hour itself is not part of it. */
  readonly to: string;
}

/** Addresses and ports under a name, to be said once. */
export interface NamedSet {
  readonly name: string;
  /** Hosts, prefixes and ranges. */
  readonly addresses?: readonly string[];
  /** Ports and ranges. */
  readonly ports?: readonly string[];
  /** Names of other sets whose addresses and ports belong to it. */
  readonly sets?: readonly string[];
}
