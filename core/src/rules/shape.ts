import type { IpRange, IpVersion } from '../address';
import type { PacketRule } from './packet-rule';
import type { Service } from './service';

/** Shapes that are remembered, and answers of each. */
const [MOST_SHAPES, MOST_ANSWERS] = [64, 4000];

/** Answers that hold for everything of one shape, by what was asked. */
const known = new Map<string, Map<string, unknown>>();

/**
 * How lists of rules lie over each other, whatever their addresses are: every bound of a range is told by its rank among all bounds there are. Of two
 * lists with equal shapes whatever is true of how their packets meet is true of both, since between two bounds no address differs from another. Sites
 * that are made alike differ in nothing else, and what was worked out for one is known for all.
 */
export class Shape {
  constructor(
    private readonly ranks: Readonly<Record<IpVersion, ReadonlyMap<bigint, number>>>,
    private readonly answers: Map<string, unknown>,
  ) {}

  /**
   * What follows from the shape alone: places in lists, numbers, yes or no; never an address or a name.
   * @param question tells it from all others that are asked of shapes. @param work is done where the answer is not known.
   */
  answer<T>(question: string, work: () => T): T {
    if (this.answers.has(question)) return this.answers.get(question) as T;
    const made = work();
    if (this.answers.size >= MOST_ANSWERS) this.answers.clear();
    this.answers.set(question, made);
    return made;
  }

  /** Address ranges by the ranks of their bounds; null where the shape knows nothing of one. */
  textOf(ranges: readonly IpRange[] | null): string | null {
    return rangesText(ranges, this.ranks);
  }
}

/** What a shape is made of. */
export interface ShapeParts {
  readonly lists: readonly (readonly PacketRule[])[];
  /** Address ranges that lie beside them, in an order of their own. */
  readonly ranges: readonly (readonly IpRange[])[];
  /** Whatever else tells it from others. */
  readonly more: string;
}

/** The shape of some lists with what lies beside them; equal ones share their answers. */
export function shapeOf({ lists, ranges, more }: ShapeParts): Shape {
  const bounds: Record<IpVersion, Set<bigint>> = { 4: new Set([0n, 1n << 32n]), 6: new Set([0n, 1n << 128n]) };
  const take = (all: readonly IpRange[] | null): void => {
    for (const { version, first, last } of all ?? []) bounds[version].add(first).add(last + 1n);
  };
  const all = lists.flatMap((list) => list.flatMap(({ source, destination }) => [source, destination]));
  for (const each of new Set([...all, ...ranges])) take(each);
  const ranks = { 4: ranked(bounds[4]), 6: ranked(bounds[6]) };
  const write = writer(ranks);
  const said = [
    more,
    ...ranges.map(write),
    ...lists.map((list) =>
      list
        .map(({ verdict, source, destination, services }) =>
          [verdict, write(source), write(destination), servicesText(services)].join(' '),
        )
        .join('\n'),
    ),
  ].join('\n\n');
  let answers = known.get(said);
  known.delete(said);
  known.set(said, (answers ??= new Map<string, unknown>()));
  if (known.size > MOST_SHAPES) known.delete(known.keys().next().value!);
  return new Shape(ranks, answers);
}

const ranked = (bounds: ReadonlySet<bigint>): ReadonlyMap<bigint, number> =>
  new Map([...bounds].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0)).map((bound, rank) => [bound, rank]));

type Ranks = Readonly<Record<IpVersion, ReadonlyMap<bigint, number>>>;

function rangesText(ranges: readonly IpRange[] | null, ranks: Ranks): string | null {
  if (ranges === null) return '*';
  let text = '';
  for (const { version, first, last } of ranges) {
    const [from, end] = [ranks[version].get(first), ranks[version].get(last + 1n)];
    if (from === undefined || end === undefined) return null;
    text += `${version}:${from}-${end},`;
  }
  return text;
}

/** Writes ranges that are known to be among the bounds; many rules have the same list. */
function writer(ranks: Ranks): (ranges: readonly IpRange[] | null) => string {
  const texts = new Map<readonly IpRange[], string>();
  return (ranges) => {
    if (ranges === null) return '*';
    let text = texts.get(ranges);
    if (text === undefined) texts.set(ranges, (text = rangesText(ranges, ranks)!));
    return text;
  };
}

const told = new WeakMap<readonly Service[], string>();
/** Services as a text; equal ones in the same order have the same. */
export function servicesText(services: readonly Service[]): string {
  let text = told.get(services);
  if (text === undefined) told.set(services, (text = services.map(serviceText).join()));
  return text;
}
const serviceText = ({ protocol, ports, sourcePorts, type, code }: Service): string =>
  JSON.stringify([protocol, ports ?? 0, sourcePorts ?? 0, type ?? -1, code ?? -1]);
