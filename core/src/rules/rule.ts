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
  | { readonly kind: 'internet' };

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

/**
 * Reads an end as it is typed: `any`, `private`, `internet`, `segment NAME`, `set NAME`, or a host, prefix or range.
 * Whether the names and addresses exist is judged when the rule is resolved.
 */
export function readEnd(text: string): RuleEnd {
  const words = text.trim();
  const named = /^(segment|set)\s+(.+)$/i.exec(words);
  if (named) return { kind: named[1]!.toLowerCase() as 'segment' | 'set', name: named[2]! };
  const plain = words.toLowerCase();
  if (plain === 'any' || plain === 'private' || plain === 'internet') return { kind: plain };
  return { kind: 'addresses', text: words };
}

/** An end as it would be typed. */
export function writeEnd(end: RuleEnd): string {
  if (end.kind === 'addresses') return end.text;
  return end.kind === 'segment' || end.kind === 'set' ? `${end.kind} ${end.name}` : end.kind;
}
