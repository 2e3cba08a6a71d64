import { contains, formatIp, parsePrefix, rangeOf, subtractRanges, type IpAddress } from '../address';
import { joinedEnds, type Join, type JoinedEstate, type Member } from '../intent';
import { readAddresses, type Packet } from '../rules';
import { joinedWay } from '../routing';
import type { Answer, AskStep } from './ask';
import type { TunnelsUp } from './led-across';

/** The joined site that has an address, and how a packet gets there; null: none has. */
export interface Across {
  readonly siteId: string;
  readonly name: string;
  readonly steps: readonly AskStep[];
  readonly passed: boolean;
  /** Whether all that is asked for is there. */
  readonly whole: boolean;
}

/**
 * How a packet gets through tunnels to the joined site that has its destination.
 * @param to what is asked for, as it is typed.
 * @param up whether the tunnel between two joined sites is, by their ids.
 */
export function acrossTo(
  estate: JoinedEstate,
  fromSite: string,
  packet: Packet,
  to: string,
  up: TunnelsUp,
): Across | null {
  const { members = [], joins = {} } = estate;
  const [source, destination] = [packet.source, packet.destination].map((value): IpAddress => ({
    version: packet.version,
    value,
  }));
  const start = members.find(({ siteId }) => siteId === fromSite);
  const found = homeOf(members, joins, destination!);
  if (!start || !found) return null;
  const way = joinedWay(
    joinedEnds(estate),
    up,
    { id: start.id, prefix: host(source!) },
    { id: found.member.id, prefix: host(destination!) },
  );
  const { name } = found.join;
  const names = (way.path ?? []).map((id) => joins[id]?.name ?? '').slice(1);
  const through = names.length > 1 ? `By ${names.slice(0, -1).join(', then ')} it comes` : 'It comes';
  const bent = way.back && !way.symmetric ? ` Answers come back by ${joins[way.back[1]!]?.name}.` : '';
  const steps = way.path ? [step('the tunnels', true, 'Handed on', `${through} to ${names.at(-1)}.${bent}`)] : [];
  const stops = way.stops.map((text) => step('the tunnels', false, 'Stopped', text));
  return {
    siteId: found.member.siteId,
    name,
    steps: [...(stops.length > 0 ? [] : steps), ...stops],
    passed: stops.length === 0,
    whole: isWithin(to, found.join.carries),
  };
}

const step = (at: string, passed: boolean, title: string, detail: string): AskStep => ({
  at,
  passed,
  title,
  detail,
  ruleId: null,
});
const host = (ip: IpAddress): string => `${formatIp(ip)}/${ip.version === 4 ? 32 : 128}`;

/** Whether addresses, as they are typed, are all in some prefixes. */
function isWithin(text: string, prefixes: readonly string[]): boolean {
  const ranges = text.split(',').map((each) => readAddresses(each.trim()));
  const own = prefixes.map((each) => rangeOf(parsePrefix(each)!));
  return ranges.every((range) => range !== null && subtractRanges(range, own).length === 0);
}

function homeOf(
  members: readonly Member[],
  joins: Readonly<Record<string, Join>>,
  ip: IpAddress,
): { readonly member: Member; readonly join: Join } | null {
  let best: { readonly member: Member; readonly join: Join; readonly length: number } | null = null;
  for (const member of members) {
    const join = joins[member.id];
    for (const text of join?.carries ?? []) {
      const prefix = parsePrefix(text)!;
      if (contains(prefix, ip) && prefix.length > (best?.length ?? -1))
        best = { member, join: join!, length: prefix.length };
    }
  }
  return best;
}

/**
 * One answer out of two: of the site where something begins, and of the one that it is for, which judges it as something from outside.
 * @param there the answer at the other site, asked with the addresses of the first; null: nothing gets there.
 */
export function joinAnswers(here: Answer, across: Across, there: Answer | null): Answer {
  const stopped = here.there.some(({ passed }) => !passed);
  if (!there)
    return stopped
      ? here
      : { ...here, reach: 'none', allowed: [], more: 0, there: [...here.there, ...across.steps], back: [] };
  const steps = stopped
    ? here.there
    : [...here.there, ...across.steps, ...there.there.map((each) => at(across.name, each))];
  const all = across.whole && here.reach === 'all' && there.reach === 'all';
  const reach = [here.reach, there.reach].includes('none')
    ? 'none'
    : all
      ? 'all'
      : [here.reach, there.reach].includes('absent')
        ? 'absent'
        : 'some';
  const cell = here.reach === 'all' ? there : here;
  const isThrough = !stopped && there.there.every(({ passed }) => passed);
  const back = there.back.map((each) => at(across.name, each));
  const comesOn = back.every(({ passed }) => passed);
  return {
    ...here,
    ...{
      reach,
      there: steps,
      back: isThrough ? [...back, ...(comesOn ? here.back : [])] : [],
    },
    ...(reach === 'none' ? { allowed: [], more: 0 } : { allowed: cell.allowed, more: cell.more }),
    rules: [...here.rules, ...there.rules],
  };
}

const at = (site: string, { at: place, ...more }: AskStep): AskStep => ({ ...more, at: `${place}, ${site}` });
