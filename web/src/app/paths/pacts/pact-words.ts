import { suiteWords } from '@iron-lattice/core/ike';
import type { PactOutlook } from '@iron-lattice/core/intent';
import { PACT_STEPS, type PactReport, type PactStep } from '@iron-lattice/core/paths';

/** What each step is called. */
export const STEP_WORDS: Readonly<Record<PactStep, string>> = {
  finds: 'finds the other',
  offers: 'agrees on the exchange',
  proves: 'both prove who they are',
  packets: 'agrees on packets',
  whose: 'agrees on what goes in',
  stands: 'stands',
};

/** One step of the way to a tunnel. */
export interface StepRow {
  readonly step: PactStep;
  readonly words: string;
  readonly is: 'done' | 'failed' | 'open';
}

/** How far it came, step by step. */
export function stepRows({ step, up }: Pick<PactReport, 'step' | 'up'>): StepRow[] {
  const at = PACT_STEPS.indexOf(step);
  return PACT_STEPS.map((each, i) => ({
    ...{ step: each, words: STEP_WORDS[each] },
    is: up || i < at ? 'done' : i === at ? 'failed' : 'open',
  }));
}

/** How it fares, in a few words, and whether that is good. */
export function faresWords(report: PactReport | undefined): {
  readonly text: string;
  readonly tone: 'soft' | 'good' | 'bad';
} {
  if (!report) return { text: 'nothing told yet', tone: 'soft' };
  if (!report.up) return { text: `fails where it ${failsWhere(report.step)}: ${report.why ?? ''}`, tone: 'bad' };
  const delay = report.delay === undefined ? '' : `, ${Math.round(report.delay)} ms`;
  return { text: `stands by ${report.by ?? '?'}${delay}`, tone: 'good' };
}
const failsWhere = (step: PactStep): string => (step === 'proves' ? 'proves who it is' : STEP_WORDS[step]);

/** What both would come to agree on: a line each, and whether it is good. */
export function outlookRows(
  { ike, esp, names, here, there }: PactOutlook,
  own: readonly string[],
  behind: readonly string[],
): readonly { readonly label: string; readonly text: string; readonly good: boolean }[] {
  const side = (all: readonly string[], both: readonly string[]): string => {
    if (both.length === 0) return 'nothing that both say';
    const lost = all.filter((each) => !both.includes(each));
    return `${both.join(', ')}${lost.length > 0 ? `; not all of ${lost.join(', ')}` : ''}`;
  };
  const whole = (all: readonly string[], both: readonly string[]): boolean => all.every((each) => both.includes(each));
  return [
    { label: 'The exchange', text: ike.suite ? suiteWords(ike.suite) : ike.missing, good: ike.suite !== null },
    { label: 'Names', text: names ?? 'each is what the other expects', good: names === null },
    {
      label: 'Packets',
      text: esp.suite
        ? [suiteWords(esp.suite), ...(esp.late ? [`then, when keys are made anew: ${esp.late}`] : [])].join('; ')
        : esp.missing,
      good: esp.suite !== null && esp.late === undefined,
    },
    { label: 'Goes in here', text: side(own, here), good: own.length > 0 && whole(own, here) },
    { label: 'Goes in there', text: side(behind, there), good: behind.length > 0 && whole(behind, there) },
  ];
}
