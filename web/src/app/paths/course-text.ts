import type { Course } from '@iron-lattice/core/intent';
import { USUAL_STEADINESS } from '@iron-lattice/core/paths';
import { readEnds, readServices, writeEnds, writeServices, type EndNames } from '@iron-lattice/core/rules';
import { readMark, useOfMark, writeMark } from '@iron-lattice/core/traffic';
import { numberTyped } from '../ui/number-typed';

/** A course as its sheet reads. */
export interface CourseText {
  readonly name: string;
  readonly from: string;
  readonly to: string;
  readonly services: string;
  readonly dscp: string;
  /** Ports, parted by commas. */
  readonly ports: string;
  readonly how: Course['how'];
  readonly otherwise: Course['otherwise'];
  readonly loss: string;
  readonly latency: string;
  readonly jitter: string;
  readonly voice: string;
  readonly bad: string;
  readonly good: string;
  readonly margin: string;
  readonly off: boolean;
}

export const NEW_COURSE: CourseText = {
  ...{ name: '', from: '', to: 'internet', services: 'any', dscp: '', ports: '', how: 'first', otherwise: 'nothing' },
  ...{ loss: '', latency: '', jitter: '', voice: '', bad: '3', good: '6', margin: '20', off: false },
};

const written = (value: number | undefined): string => (value === undefined ? '' : `${value}`);

/** A course as it would be typed. */
export function courseTextOf(course: Course): CourseText {
  const { name, from, to, services, dscp, ports, how, otherwise, needs, steady, off } = course;
  const { bad, good, margin } = steady ?? USUAL_STEADINESS;
  return {
    ...{ name, from: writeEnds(from), to: writeEnds(to), services: writeServices(services) },
    ...{ dscp: (dscp ?? []).map(writeMark).join(', '), ports: ports.join(', '), how, otherwise },
    ...{ loss: written(needs?.loss), latency: written(needs?.latency), jitter: written(needs?.jitter) },
    ...{ voice: written(needs?.voice), bad: `${bad}`, good: `${good}`, margin: `${Math.round(margin * 100)}` },
    off: off ?? false,
  };
}

export const portsTyped = (text: string): string[] => text.split(/[\s,]+/).filter(Boolean);

/** Whether anything is needed of an uplink. */
export const hasNeeds = ({ loss, latency, jitter, voice }: CourseText): boolean =>
  [loss, latency, jitter, voice].some((each) => each.trim() !== '');

export type CourseFields = Omit<Course, 'id' | 'deviceId' | 'turn'>;

/** Marks as they are typed, each by itself. */
const marksTyped = (text: string): string[] => text.split(/[\s,]+/).filter(Boolean);

/** What marks that are typed are for, in words; what they may be where there are none. */
export function marksHint(text: string): string {
  const all = marksTyped(text);
  if (all.length === 0) return 'Names, such as EF or AF41, or numbers';
  return all
    .map((each) => {
      const dscp = readMark(each);
      if (dscp === null) return `“${each}” is no mark`;
      return `${writeMark(dscp)}: ${useOfMark(dscp) ?? 'nothing that has a name'}`;
    })
    .join('; ');
}

/** What is typed as a course; of what cannot be read, what is wrong. */
export function courseTyped(
  text: CourseText,
  known: EndNames,
): { readonly fields: CourseFields; readonly flaws: Readonly<Partial<Record<keyof CourseText, string>>> } {
  const { services, bad } = readServices(text.services);
  const marks = marksTyped(text.dscp);
  const asked = (['loss', 'latency', 'jitter', 'voice'] as const).flatMap((field) => {
    const value = numberTyped(text[field]);
    return value === null ? [] : [[field, value] as const];
  });
  const steady = {
    bad: numberTyped(text.bad) ?? -1,
    good: numberTyped(text.good) ?? -1,
    margin: (numberTyped(text.margin) ?? -1) / 100,
  };
  const isUsual = JSON.stringify(steady) === JSON.stringify(USUAL_STEADINESS);
  return {
    fields: {
      ...{ name: text.name, from: readEnds(text.from, known), to: readEnds(text.to, known), services },
      dscp: marks.length === 0 ? null : marks.map((mark) => readMark(mark) ?? -1),
      ...{ ports: portsTyped(text.ports), how: text.how, otherwise: text.otherwise },
      needs: asked.length === 0 ? null : Object.fromEntries(asked),
      steady: asked.length === 0 || isUsual ? null : steady,
      off: text.off || null,
    },
    flaws:
      bad.length > 0 ? { services: `“${bad[0]}” is no protocol with ports, such as tcp 443 or udp 5000-5010.` } : {},
  };
}

/** What a course needs, in words; empty: that its uplinks are good. */
export function needsWords({ needs }: Pick<Course, 'needs'>): string {
  if (!needs) return '';
  const { loss, latency, jitter, voice } = needs;
  return [
    ...(loss === undefined ? [] : [`${loss} % lost`]),
    ...(latency === undefined ? [] : [`${latency} ms`]),
    ...(jitter === undefined ? [] : [`± ${jitter} ms`]),
    ...(voice === undefined ? [] : [`a voice score of ${voice}`]),
  ]
    .join(', ')
    .replace(/^/, 'needs ');
}
