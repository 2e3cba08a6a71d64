import { ask, type Answer } from './ask';
import { consequencesOf, type Consequences } from './consequences';
import type { Finding } from './finding';
import { reachMatrix, type ReachInput } from './reach-view';
import {
  apply,
  resolve,
  type Intent,
  type Link,
  type Operation,
  type ResolvedSite,
  type RosterDevice,
  type SitePart,
} from '../intent';
import { policyOf } from '../rollout';
import { readEnds, readServices, type Rule, type RulePlace } from '../rules';

/** A rule as it would be typed; its comment is its id. */
export const typedRule = (
  id: string,
  verdict: Rule['verdict'],
  from: string,
  to: string,
  services = 'any',
  at?: RulePlace,
): Rule => ({
  id,
  verdict,
  from: readEnds(from),
  to: readEnds(to),
  services: readServices(services).services,
  comment: id,
  ...(at ? { at } : {}),
});

interface Sample {
  readonly intent: Intent;
  readonly site: SitePart;
  readonly roster: readonly RosterDevice[];
  readonly links: readonly Link[];
}

/** A sample site that is edited and asked about, for tests. */
export class EditedSite {
  constructor(
    readonly sample: Sample,
    /** What edits begin with. */
    readonly start: Intent = sample.intent,
  ) {}

  get siteId(): string {
    return this.sample.site.id;
  }

  /** The same site with edits behind it. */
  with(...operations: Operation[]): EditedSite {
    return new EditedSite(this.sample, this.done(this.start, ...operations));
  }

  /** An intent with edits made. @throws Error where one is refused. */
  done(intent: Intent, ...operations: Operation[]): Intent {
    for (const operation of operations) {
      const result = apply(intent, operation, (id) => this.sample.roster.find((each) => each.id === id));
      if (!result.ok) throw new Error(result.flaws.map(({ message }) => message).join());
      intent = result.intent;
    }
    return intent;
  }

  withRules(...rules: Rule[]): Intent {
    return this.done(this.start, { type: 'rule.add', siteId: this.siteId, rules, behind: null });
  }

  at(intent: Intent): ResolvedSite {
    return resolve(intent.estate, intent.sites.get(this.siteId)!);
  }

  reach(intent: Intent): ReachInput {
    return { site: this.at(intent), roster: this.sample.roster, live: null };
  }

  /** The places of every rule, by its id. */
  placesOf(intent: Intent): Record<string, readonly RulePlace[]> {
    const { rows } = policyOf(this.at(intent), this.sample.roster);
    return Object.fromEntries(rows.map(({ rule: { id }, places }) => [id, places]));
  }

  judged(intent: Intent, tags: readonly string[] = []): Consequences {
    const { roster, links } = this.sample;
    const site = intent.sites.get(this.siteId)!;
    return consequencesOf({ estate: intent.estate, site, roster, links, told: {}, tags });
  }

  /** What is found of rules. */
  ofRules(intent: Intent): Finding[] {
    return this.judged(intent).findings.filter(({ place }) => place.kind === 'rule');
  }

  /** A cell of the draft’s matrix by the names of its places. */
  cell(intent: Intent, from: string, to: string): string {
    const { places, draft } = reachMatrix(this.reach(intent), null);
    const at = (name: string): number => places.findIndex((place) => place.name === name);
    return draft[at(from)]![at(to)]!;
  }

  /** The answer to a question of the draft. @throws Error where it is not understood. */
  ask(intent: Intent, from: string, to: string, services: string): Answer {
    const answer = ask(this.reach(intent), { question: { from, to, services }, on: 'draft', minute: null });
    if ('flaws' in answer) throw new Error(answer.flaws[0]!.message);
    return answer;
  }
}
