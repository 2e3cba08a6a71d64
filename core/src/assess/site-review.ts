import { hashText, type Difference, type Outage } from '../document';
import type { Consequences } from './consequences';
import type { Finding, Severity } from './finding';
import type { GuaranteeResult } from './guarantee-results';
import type { LockOut } from './lock-out';

/** Findings of one site that are told one by one; beyond them they are counted. */
export const MOST_REVIEWED = 100;

/** A device that would be told something else, by the key of what it would be told. */
export interface ReviewedChange {
  readonly deviceId: string;
  readonly name: string;
  readonly told: string;
  /** Hash of the document that it would be told. */
  readonly hash: string;
  /** Key of what is expected to be away for it; empty: nothing. */
  readonly away: string;
}

/** What a draft means at one site, as much as a look over many sites needs. */
export interface SiteReview {
  readonly siteId: string;
  /** How many findings there are, by severity. */
  readonly counts: Readonly<Record<Severity, number>>;
  /** The worst first, some of them. */
  readonly findings: readonly Finding[];
  /** Guarantees that would be broken. */
  readonly broken: readonly GuaranteeResult[];
  readonly lockOuts: readonly LockOut[];
  /** In the order a rollout would tell them. */
  readonly changes: readonly ReviewedChange[];
  /** What devices would be told, once for all that hear the same. */
  readonly differences: Readonly<Record<string, Difference>>;
  /** What is expected to be away, once for all devices of which it is the same. */
  readonly outages: Readonly<Record<string, readonly Outage[]>>;
}

/** What of a site's consequences a look over many sites needs. Devices that would be told the very same lines share a key. */
export function reviewOf({
  siteId,
  findings,
  guarantees,
  lockOuts,
  changes,
}: Omit<Consequences<Difference>, 'grid'>): SiteReview {
  const differences: Record<string, Difference> = {};
  const outages: Record<string, readonly Outage[]> = {};
  const of = (severity: Severity): number => findings.filter((each) => each.severity === severity).length;
  return {
    siteId,
    counts: { error: of('error'), warning: of('warning'), info: of('info') },
    findings: findings.slice(0, MOST_REVIEWED),
    broken: guarantees.filter(({ state }) => state === 'broken'),
    lockOuts,
    changes: changes.map(({ deviceId, name, difference, hash, outages: felt }) => {
      const told = keyOf(difference);
      differences[told] = difference;
      const away = felt.length === 0 ? '' : hashText(JSON.stringify(felt));
      if (away !== '') outages[away] = felt;
      return { deviceId, name, told, hash, away };
    }),
    differences,
    outages,
  };
}

/** Keys of differences: many devices of a site hear the same one. */
const keys = new WeakMap<Difference, string>();

function keyOf(difference: Difference): string {
  let key = keys.get(difference);
  if (key === undefined) keys.set(difference, (key = hashText(JSON.stringify(difference.lines))));
  return key;
}
