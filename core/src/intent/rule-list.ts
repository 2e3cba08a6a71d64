import { flaw, readColumns, type CheckedList, type CheckedRow, type Flaw, type ListColumn } from '../base';
import {
  readEnds,
  readServices,
  readTimes,
  writeEnds,
  writeServices,
  writeTimes,
  type EndNames,
  type Rule,
  type RulePlace,
} from '../rules';
import { apply } from './apply';
import type { Hours } from './hours/hours';
import type { Intent } from './part';
import type { Operation } from './registry';
import type { OfBook } from './rule/operations';

const KEYS = ['verdict', 'from', 'to', 'services', 'times', 'log', 'off', 'comment', 'at'] as const;
type Key = (typeof KEYS)[number];
const HEADINGS: Readonly<Record<Key, readonly string[]>> = {
  verdict: ['verdict', 'action', 'decision'],
  from: ['from', 'source'],
  to: ['to', 'destination'],
  services: ['services', 'service', 'protocol'],
  times: ['times', 'schedule'],
  log: ['log', 'logging'],
  off: ['off'],
  at: ['at', 'place'],
  comment: ['comment', 'name'],
};
/** Columns of a list of rules, in the order they are written. */
export const RULE_COLUMNS: readonly ListColumn<Key>[] = KEYS.map((key) => ({
  key,
  headings: HEADINGS[key],
  required: key === 'verdict' || key === 'from' || key === 'to',
}));

/** What a list of rules would do: one edit that adds all good rows behind the last rule. */
export interface RuleListPreview extends CheckedList<Rule> {
  readonly operations: readonly Operation[];
}

/** Rules as rows of text with a heading; reading them back gives the same rules. */
export function ruleTable(rules: readonly Rule[], hours: readonly Hours[] = []): string[][] {
  return [
    RULE_COLUMNS.map(({ headings }) => headings[0]!),
    ...rules.map(({ verdict, from, to, services, times, hours: id, log, off, at, comment }) => [
      verdict,
      writeEnds(from),
      writeEnds(to),
      writeServices(services),
      timesText(
        times,
        hours.find((each) => each.id === id),
      ),
      log ? 'yes' : '',
      off ? 'yes' : '',
      comment ?? '',
      at ?? '',
    ]),
  ];
}

/** Stands before the name of hours, where times of its own may stand as well. */
const NAMED = /^hours\s+(.+)$/i;
const timesText = (times: Rule['times'], hours: Hours | undefined): string =>
  hours ? `hours ${hours.name}` : times ? writeTimes(times) : '';

const VERDICTS: Readonly<Record<string, Rule['verdict']>> = {
  allow: 'allow',
  accept: 'allow',
  permit: 'allow',
  deny: 'deny',
  drop: 'deny',
  block: 'deny',
};
const PLACES: Readonly<Record<string, RulePlace | null>> = {
  '': null,
  gateway: 'gateway',
  switches: 'switches',
  aps: 'aps',
};
const yes = (text: string): boolean => /^(yes|y|true|1|x|on)$/i.test(text);

/**
 * Looks at a list of rules row by row. What is wrong with a row is said at the row; the others may be taken all the same.
 * @param newId makes the ids of the rules.
 */
export function checkRuleList(
  table: readonly (readonly string[])[],
  intent: Intent,
  of: OfBook,
  behind: string | null,
  known: EndNames,
  newId: () => string,
): RuleListPreview {
  const list = readColumns(table, RULE_COLUMNS);
  const read = list.rows.map(({ line, values }): CheckedRow<Rule> => {
    const { rule, flaws } = ruleOf(values, known, intent.estate.hours ?? [], newId());
    return { line, values, good: flaws.length > 0 ? null : rule, flaws };
  });
  const wrong = refusals(
    read.flatMap((row) => (row.good ? [row.good] : [])),
    intent,
    of,
    behind,
  );
  const rows = read.map((row): CheckedRow<Rule> => {
    const flaws = row.good ? wrong.get(row.good.id) : undefined;
    return flaws ? { ...row, good: null, flaws } : row;
  });
  const rules = rows.flatMap(({ good }) => (good ? [good] : []));
  return {
    rows,
    flaws: list.flaws,
    operations: rules.length > 0 ? [{ type: 'rule.add', rules, behind, ...of }] : [],
  };
}

function ruleOf(
  values: Readonly<Record<Key, string>>,
  known: EndNames,
  all: readonly Hours[],
  id: string,
): { rule: Rule; flaws: Flaw[] } {
  const flaws: Flaw[] = [];
  const verdict = VERDICTS[values.verdict.toLowerCase()];
  if (!verdict) flaws.push(flaw('rule.verdict', `“${values.verdict}” is neither allow nor deny.`, 'verdict'));
  const { services, bad } = readServices(values.services === '' ? 'any' : values.services);
  if (bad.length > 0)
    flaws.push(
      flaw('rule.service', `“${bad[0]}” is no protocol with ports, such as tcp 443 or udp 5000-5010.`, 'services'),
    );
  const name = NAMED.exec(values.times)?.[1]?.trim();
  const hours = name === undefined ? undefined : all.find((each) => each.name.toLowerCase() === name.toLowerCase());
  if (name !== undefined && !hours) flaws.push(flaw('rule.hours', `There are no hours “${name}”.`, 'times'));
  const times = values.times === '' || name !== undefined ? undefined : readTimes(values.times);
  if (times === null) flaws.push(flaw('rule.times', 'Write times such as Mon-Fri 08:00-18:00.', 'times'));
  const at = PLACES[values.at.toLowerCase()];
  if (at === undefined)
    flaws.push(flaw('rule.at', `“${values.at}” is no place: gateway, switches or aps, or nothing.`, 'at'));
  const rule: Rule = {
    id,
    verdict: verdict ?? 'deny',
    from: readEnds(values.from, known),
    to: readEnds(values.to, known),
    services,
    ...(times ? { times } : {}),
    ...(hours ? { hours: hours.id } : {}),
    ...(yes(values.log) ? { log: true } : {}),
    ...(yes(values.off) ? { off: true } : {}),
    ...(at ? { at } : {}),
    ...(values.comment === '' ? {} : { comment: values.comment }),
  };
  return { rule, flaws };
}

/** What core refuses of rules that would be added together, by rule. */
function refusals(
  rules: readonly Rule[],
  intent: Intent,
  of: OfBook,
  behind: string | null,
): ReadonlyMap<string, readonly Flaw[]> {
  const wrong = new Map<string, Flaw[]>();
  if (rules.length === 0) return wrong;
  const result = apply(intent, { type: 'rule.add', rules, behind, ...of }, () => undefined);
  if (result.ok) return wrong;
  for (const { code, message, field } of result.flaws) {
    const at = /^rules\.(\d+)\.(.+)$/.exec(field ?? '');
    const ids = at ? [rules[Number(at[1])]!.id] : rules.map(({ id }) => id);
    for (const id of ids) wrong.set(id, [...(wrong.get(id) ?? []), flaw(code, message, at?.[2])]);
  }
  return wrong;
}
