import type { ResolvedSite } from '../intent';
import type { Fact, ResolvedEnds } from '../rollout';
import { Decider } from '../rules';
import type { Check } from './check';
import type { Finding, FindingPlace } from './finding';

/** Something of a gateway that takes packets in an order: the first that fits decides. */
interface Taker {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
}

/** What is looked at of one kind of them. */
export interface TakersOf<T extends Taker> {
  readonly kind: FindingPlace['kind'] & ('course' | 'translation');
  readonly listOf: (site: ResolvedSite) => readonly T[] | undefined;
  /** Those of one gateway that are in force, in their order. */
  readonly inOrder: (site: ResolvedSite, deviceId: string) => readonly T[];
  readonly resolved: Fact<ResolvedEnds>;
  /** Whether all that fits `before` never comes to `each`. */
  readonly hides: (before: T, each: T) => boolean;
}

/** Finds those that nothing takes: whom they name has no address here, or others take all of it before. */
export const takenChecks = <T extends Taker>(of: TakersOf<T>): readonly Check[] => [nowhere(of), covered(of)];

const finding = <T extends Taker>(
  { kind }: TakersOf<T>,
  siteId: string,
  { id, name }: T,
  [code, more]: readonly [code: string, more: string],
  reason: string,
): Finding => ({
  ...{ key: `paths.${kind}-${code} ${id}${more}`, code: `paths.${kind}-${code}`, severity: 'warning' },
  ...{ message: `Nothing takes the ${kind} “${name}”`, reason, place: { siteId, kind, id }, mend: null },
});

/** Whom they name has no address here. */
const nowhere =
  <T extends Taker>(of: TakersOf<T>): Check =>
  ({ site, roster }) =>
    of.resolved({ site, roster }).flaws.flatMap(({ of: id, code, message }): Finding[] => {
      const found = of.listOf(site)?.find((each) => each.id === id);
      // What was said of a gateway that is gone waits for it.
      if (!found || !roster.some((device) => device.id === found.deviceId)) return [];
      return [finding(of, site.id, found, ['nowhere', ` ${code}`], message)];
    });

/** All of their packets are taken by others that come before. */
const covered =
  <T extends Taker>(of: TakersOf<T>): Check =>
  ({ site, roster }) => {
    const all = of.listOf(site) ?? [];
    const gateways = roster.map(({ id }) => id).filter((id) => all.some(({ deviceId }) => deviceId === id));
    if (gateways.length === 0) return [];
    const { packets } = of.resolved({ site, roster });
    return gateways.flatMap((deviceId) => {
      const mine = of.inOrder(site, deviceId).filter(({ id }) => packets[id]);
      return mine.flatMap((each, at): Finding[] => {
        const before = mine.slice(0, at).filter((other) => of.hides(other, each));
        const rule = packets[each.id]!;
        const decider = new Decider(before.map(({ id }) => packets[id]!));
        if (before.length === 0 || decider.leaves(rule)) return [];
        const names = decider.decidersOf(rule).map(({ id }) => `“${before.find((other) => other.id === id)!.name}”`);
        const reason = `All of its packets are taken by ${names.join(' and ')}, which come before it.`;
        return [finding(of, site.id, each, ['covered', ''], reason)];
      });
    });
  };
