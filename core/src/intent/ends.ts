import type { Rule, RuleEnd } from '../rules';
import type { NamedKind, Renamed } from './edit';
import type { Wanted } from './shared';

/** What rules and guarantees have in common: they name others as their ends, and sets among their ports too. */
export interface Ended {
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  readonly besides?: readonly RuleEnd[] | null;
  readonly services: Rule['services'];
}

const isMeant = (end: RuleEnd, kind: NamedKind, name: string): boolean => end.kind === kind && end.name === name;
const endsOf = ({ from, to, besides }: Ended): RuleEnd[] => [...from, ...to, ...(besides ?? [])];

/** Whether a rule or a guarantee names something. */
export function namesEnd(one: Ended, kind: NamedKind, name: string): boolean {
  if (endsOf(one).some((end) => isMeant(end, kind, name))) return true;
  return kind === 'set' && setsOfPorts(one).includes(name);
}

/** Names of the sets among the ports of a rule or a guarantee. */
const setsOfPorts = ({ services }: Ended): string[] =>
  services
    .flatMap(({ ports, sourcePorts }) => [...(ports ?? []), ...(sourcePorts ?? [])])
    .flatMap((text) => /^set\s+(.+)$/i.exec(text)?.[1] ?? []);

/** What a rule or a guarantee looks up at each site, each once. */
export function wantsOfEnds(one: Ended): readonly Wanted[] {
  const named = endsOf(one).flatMap((end): Wanted[] => ('name' in end ? [{ kind: end.kind, name: end.name }] : []));
  const sets = setsOfPorts(one).map((name): Wanted => ({ kind: 'set', name }));
  return [...new Map([...named, ...sets].map((each) => [`${each.kind} ${each.name}`, each])).values()];
}

/** Whether a rule or a guarantee names a set. */
export const uses = (one: Ended, name: string): boolean => namesEnd(one, 'set', name);

/** A list in which whatever named something names it as it is called now; the same list where nothing did. */
export function followEnds<T extends Ended>(all: readonly T[], { kind, from, to }: Renamed): readonly T[] {
  const names = (one: T): boolean => endsOf(one).some((end) => isMeant(end, kind, from));
  if (!all.some(names)) return all;
  const follow = (ends: readonly RuleEnd[]): RuleEnd[] =>
    ends.map((end) => (isMeant(end, kind, from) ? { kind, name: to } : end));
  return all.map((one) => {
    if (!names(one)) return one;
    const { besides } = one;
    return { ...one, from: follow(one.from), to: follow(one.to), ...(besides ? { besides: follow(besides) } : {}) };
  });
}

/** A part in which the lists of some fields follow something to another name; the same part where none names it. */
export function followIn<P extends object>(part: P, fields: readonly string[], renamed: Renamed): P {
  const raw = part as Readonly<Record<string, readonly Ended[] | undefined>>;
  const next = fields.flatMap((field) => {
    const now = raw[field];
    const then = now && followEnds(now, renamed);
    return then === now ? [] : [[field, then] as const];
  });
  return next.length === 0 ? part : { ...part, ...Object.fromEntries(next) };
}
