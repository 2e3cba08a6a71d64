import type { Rule, RuleEnd } from '../rules';
import type { NamedKind, Renamed } from './edit';

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
  if (kind !== 'set') return false;
  const ports = one.services.flatMap((service) => [...(service.ports ?? []), ...(service.sourcePorts ?? [])]);
  return ports.some((text) => /^set\s+(.+)$/i.exec(text)?.[1] === name);
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
