import { FAILS_AT, type Failure } from '@iron-lattice/core/assess';
import type { DrillView, Outcome, Rehearsed } from '@iron-lattice/core/paths';
import { MISHAP_WORDS } from './mishap-text';
import { octetsWords } from '../ui/octets-words';
import { secondsWords } from './watch-curve';

/** Names of ports, and of courses by their ids. */
export type Titles = ReadonlyMap<string, string>;

const percent = (share: number): string => `${Math.round(share * 100)} %`;

/** What a rehearsal comes to. */
export function sumWords(mean: Rehearsed, worst: Rehearsed, titles: Titles): string {
  const rest = outcomeWords(mean, worst);
  const carried = carriedBy(mean, titles);
  const courses = (mean.courses ?? []).map(
    (one, i) => `${titles.get(one.id) ?? one.id}: ${lower(outcomeWords(one, worst.courses?.[i] ?? one))}`,
  );
  const turns = turnWords(mean, worst, titles);
  const all = courses.length === 0 ? rest : `The rest: ${lower(rest)} ${courses.join(' ')}`;
  return `${turns}${all}${carried}`;
}

/** Who of a pair routes when, and for how long nobody does. */
function turnWords({ turns = [], unrouted = 0 }: Rehearsed, worst: Rehearsed, titles: Titles): string {
  const taken = turns.slice(1).flatMap(({ from, gatewayId }) => {
    return gatewayId === null ? [] : [`${titles.get(gatewayId) ?? 'the other'} routes from ${secondsWords(from)} on`];
  });
  if (taken.length === 0)
    return turns.length > 0 ? `${titles.get(turns[0]!.gatewayId ?? '') ?? 'One'} routes all along. ` : '';
  const nobody =
    unrouted > 0 ? `; nobody does for ${secondsWords(unrouted)} (at worst ${secondsWords(worst.unrouted ?? 0)})` : '';
  return `${taken.join(', ')}${nobody}. `;
}

/** How much each uplink carries meanwhile, going by the latest days. */
function carriedBy({ carried = [] }: Rehearsed, titles: Titles): string {
  const parts = carried.map(({ port, octets }) => `${titles.get(port) ?? port} ${octetsWords(octets)}`);
  return parts.length === 0 ? '' : ` Meanwhile, going by the latest days: ${parts.join(', ')}.`;
}

const lower = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);

function outcomeWords({ dark, outage, longest, broken }: Outcome, worst: Outcome): string {
  if (outage === 0) return `Everybody is served all the time; ${lower(brokenWords(broken))}`;
  const none = dark > 0 ? `Nobody is served for ${secondsWords(dark)}` : 'Somebody is always served';
  return `${none}; some are not for ${secondsWords(outage)}, at most ${secondsWords(longest)} at a stretch (at worst ${secondsWords(worst.longest)}). ${brokenWords(broken)}`;
}

/** How many sessions break; of several failures each may break more than once. */
const brokenWords = (broken: number): string =>
  broken > 1.005 ? `Sessions break ${Math.round(broken)} times.` : `${percent(broken)} of the sessions break.`;

/** A failure as a line of a table. */
export interface FailureLine {
  readonly key: string;
  readonly title: string;
  readonly what: string;
  /** Whose sessions it is of; empty: all. */
  readonly whose: string;
  readonly dark: boolean;
  readonly darkWords: string;
  readonly someWords: string;
  readonly then: string;
  readonly broken: string;
}

/** What a failure comes to: for what leaves as usual, and for each course. */
export function failureLines({ ports, what, mean, worst }: Failure, titles: Titles): FailureLine[] {
  const names = what === 'off' ? [mean.gatewayId] : ports;
  const said = { title: names.map((name) => titles.get(name) ?? name).join(' and '), what: MISHAP_WORDS[what] };
  const courses = worst.courses ?? [];
  const line = (key: string, whose: string, usual: Outcome, most: Outcome): FailureLine => {
    const after = most.spans.find(
      ({ to, used }) => to > FAILS_AT && used.every(({ port }) => !ports.includes(port)) && used.length > 0,
    );
    const range = (of: 'dark' | 'longest'): string =>
      most[of] === 0 ? 'not at all' : `${secondsWords(usual[of])}, at worst ${secondsWords(most[of])}`;
    const isTouched = most.outage > 0 || most.broken > 0.005;
    return {
      ...{ ...said, key: `${ports.join()} ${what} ${key}`, whose, dark: most.dark > 0 },
      darkWords: after || !isTouched ? range('dark') : 'as long as it lasts',
      someWords: after || !isTouched ? range('longest') : 'as long as it lasts',
      then: after
        ? after.used.map(({ port, share }) => `${titles.get(port) ?? port} ${percent(share)}`).join(', ')
        : 'nothing',
      broken: percent(Math.min(1, most.broken)),
    };
  };
  return [
    line('', courses.length > 0 ? 'the rest' : '', mean, worst),
    ...courses.map((most, i) => line(most.id, titles.get(most.id) ?? most.id, mean.courses?.[i] ?? most, most)),
  ];
}

/** How far apart what was computed and what happened may be to be taken for the same, in seconds. */
const NEAR_S = 60;

/** When what was computed was really noticed. @param now in milliseconds since 1970. */
export function drillWords({ at: start, predicted, changes }: DrillView, titles: Titles, now: number): string {
  const began = Date.parse(start);
  const lines = predicted.noticed.map(({ at, port, what }) => {
    const seconds = (each: { readonly at: string }): number => (Date.parse(each.at) - began) / 1000;
    const real = changes.find(
      (each) => each.port === port && each.what === what && Math.abs(seconds(each) - at) < NEAR_S,
    );
    const who = what === 'started' ? 'power' : (titles.get(port) ?? port);
    const words = `${who} ${what === 'gone' ? 'gone' : 'back'}: computed at ${secondsWords(at)}`;
    const passed = (now - began) / 1000 > at + NEAR_S;
    return `${words}${real ? `, really at ${secondsWords(seconds(real))}` : passed ? ', not told' : ', to come'}`;
  });
  const turns = (predicted.turns ?? []).slice(1).flatMap(({ from, gatewayId }) => {
    if (gatewayId === null) return [];
    const seconds = (each: { readonly at: string }): number => (Date.parse(each.at) - began) / 1000;
    const real = changes.find(
      (each) => each.deviceId === gatewayId && each.what === 'took-over' && Math.abs(seconds(each) - from) < NEAR_S,
    );
    const passed = (now - began) / 1000 > from + NEAR_S;
    const words = `${titles.get(gatewayId) ?? 'the other'} routes: computed at ${secondsWords(from)}`;
    return [`${words}${real ? `, really at ${secondsWords(seconds(real))}` : passed ? ', not told' : ', to come'}`];
  });
  return [...turns, ...lines].join(' · ') || 'Nothing was to be noticed.';
}
