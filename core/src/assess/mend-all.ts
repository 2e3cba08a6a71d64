import { apply, type Intent, type Operation, type RosterLookup } from '../intent';
import { findingsOf, type FindingsInput } from './consequences';
import type { Finding } from './finding';

/** One mend among all, in the order they would be made. */
export interface MendStep {
  readonly finding: Finding;
  /** Edits of it that are still needed after those before. */
  readonly operations: readonly Operation[];
}

/** What mending everything would do, and what is left that only a person can settle. */
export interface MendPlan {
  readonly steps: readonly MendStep[];
  readonly left: readonly Finding[];
}

/** A mend may bring another to light; more rounds than this mean that two undo each other. */
const MOST_ROUNDS = 6;

/**
 * Applies every mend of a site's findings, the worst first, looking again after each round, without changing anything.
 * An edit that another mend has already made is left out, so the plan adds no more than is missing.
 */
export function mendAll(
  intent: Intent,
  input: Omit<FindingsInput, 'estate' | 'site'>,
  siteId: string,
  roster: RosterLookup,
): MendPlan {
  let now = intent;
  const look = (): readonly Finding[] => findingsOf({ ...input, estate: now.estate, site: now.sites.get(siteId)! });
  const steps: MendStep[] = [];
  const tried = new Set<string>();
  let findings = look();
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const fresh = findings.filter((finding) => finding.mend && !tried.has(finding.key));
    if (fresh.length === 0) break;
    for (const finding of fresh) {
      tried.add(finding.key);
      const made: Operation[] = [];
      for (const operation of finding.mend!.operations) {
        const result = apply(now, operation, roster);
        if (!result.ok) continue; // another mend has made it, or it no longer fits
        now = result.intent;
        made.push(operation);
      }
      if (made.length > 0) steps.push({ finding, operations: made });
    }
    findings = look();
  }
  return { steps, left: findings };
}
