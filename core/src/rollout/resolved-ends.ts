import { namesAt, type Course, type Translation } from '../intent';
import { resolveRules, type PacketRule, type Rule, type RuleFlaw } from '../rules';
import { fact, type Fact } from './reads';

/** Things of a site that name whom they are about. */
interface Lists {
  readonly courses: Course;
  readonly translations: Translation;
}

/** What they come to in addresses, by their ids, and what is wrong with them here. */
export interface ResolvedEnds {
  readonly packets: Readonly<Record<string, PacketRule>>;
  readonly flaws: readonly RuleFlaw[];
}
const NONE: ResolvedEnds = { packets: {}, flaws: [] };

/** A list of a site with names put into addresses. @param endsOf what packets each of them is about. */
export const resolvedEnds = <List extends keyof Lists>(
  list: List,
  endsOf: (each: Lists[List]) => Pick<Rule, 'id' | 'from' | 'to' | 'services'>,
): Fact<ResolvedEnds> =>
  fact(
    {
      site: [list, 'segments', 'off', 'ssids', 'accessClasses', 'sets', 'managementId'],
      estate: ['sets', 'controller'],
      devices: ['name', 'address', 'mac'],
    },
    (seen) => {
      const { devices, estate, ...site } = seen;
      const inForce = ((seen[list] as readonly Lists[List][] | undefined) ?? []).filter(({ off }) => !off);
      if (inForce.length === 0) return NONE;
      const written = inForce.map(endsOf).map(({ id, from, to, services }) => ({
        ...{ id, verdict: 'allow' as const, from, to, services },
      }));
      const { rules, flaws } = resolveRules(written, namesAt(estate, site, devices));
      return { packets: Object.fromEntries(rules.map((rule) => [rule.id, rule])), flaws };
    },
  );
