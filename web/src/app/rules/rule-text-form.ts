import type { Rule, RulePlace } from '@iron-lattice/core/rules';
import {
  readEnds,
  readServices,
  readTimes,
  writeEnds,
  writeServices,
  writeTimes,
  type EndNames,
} from '@iron-lattice/core/rules';

/** Stands for times of its own among the hours. */
export const OWN = 'own';

/** A rule as a form has it: everything as it is typed. */
export interface RuleText {
  readonly verdict: Rule['verdict'];
  readonly from: string;
  readonly to: string;
  readonly services: string;
  /** Id of the hours it is in force at; empty: always, or `OWN` for `times`. */
  readonly hours: string;
  readonly times: string;
  /** Empty: the place that can do it. */
  readonly at: RulePlace | '';
  readonly comment: string;
  readonly log: boolean;
  readonly off: boolean;
}

export const NEW_RULE: RuleText = {
  verdict: 'deny',
  from: '',
  to: '',
  services: 'any',
  hours: '',
  times: '',
  at: '',
  comment: '',
  log: false,
  off: false,
};

/** A rule as it would be typed. */
export const textOf = ({ verdict, from, to, services, times, hours, at, comment, log, off }: Rule): RuleText => ({
  verdict,
  from: writeEnds(from),
  to: writeEnds(to),
  services: writeServices(services),
  hours: hours ?? (times ? OWN : ''),
  times: times ? writeTimes(times) : '',
  at: at ?? '',
  comment: comment ?? '',
  log: log ?? false,
  off: off ?? false,
});

/** What is typed as a rule's fields; of fields that cannot be read, what is wrong. */
export function fieldsOf(
  text: RuleText,
  known: EndNames,
): { readonly fields: Omit<Rule, 'id'>; readonly flaws: Readonly<Partial<Record<keyof RuleText, string>>> } {
  const { services, bad } = readServices(text.services);
  const own = text.hours === OWN;
  const times = !own || text.times.trim() === '' ? [] : readTimes(text.times);
  return {
    fields: {
      verdict: text.verdict,
      from: readEnds(text.from, known),
      to: readEnds(text.to, known),
      services,
      times: times ?? [],
      hours: own || text.hours === '' ? null : text.hours,
      at: text.at === '' ? null : text.at,
      comment: text.comment,
      log: text.log,
      off: text.off,
    },
    flaws: {
      ...(bad.length > 0
        ? { services: `“${bad[0]}” is no protocol with ports, such as tcp 443 or udp 5000-5010.` }
        : {}),
      ...(times === null ? { times: 'Write times such as Mon-Fri 08:00-18:00; Sat 10:00-14:00.' } : {}),
    },
  };
}
