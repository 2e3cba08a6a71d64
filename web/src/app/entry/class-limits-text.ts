import type { ClassLimits } from '@iron-lattice/core/intent';
import type { Problem } from '../session/problem';

/** Limits of a class as they are typed: rates in Mb/s, times in minutes; empty: none. */
export interface LimitsText {
  readonly down: string;
  readonly up: string;
  readonly session: string;
  readonly idle: string;
  readonly again: string;
}
type Field = keyof LimitsText;

export const LIMIT_CELLS: readonly { readonly field: Field; readonly label: string; readonly hint: string }[] = [
  {
    field: 'down',
    label: 'Each down, Mb/s',
    hint: 'At a port, and on the air instead of what the SSID gives each',
  },
  { field: 'up', label: 'Each up, Mb/s', hint: 'The same' },
  { field: 'session', label: 'Sent away after, min', hint: 'However busy; empty: never' },
  { field: 'idle', label: 'Gone after, min of silence', hint: 'Empty: the line or the air says when' },
  { field: 'again', label: 'Asked anew after, min', hint: 'Whether they still are who they were; empty: 60' },
];

/** The field of core that each is. */
const FIELD_OF: Readonly<Record<Field, string>> = {
  ...{ down: 'rate.down', up: 'rate.up' },
  ...{ session: 'session', idle: 'idle', again: 'again' },
};
export const LIMIT_FIELDS: readonly string[] = Object.values(FIELD_OF);

export function limitsText(limits: ClassLimits | null): LimitsText {
  const mbps = (kbps: number | null | undefined): string => (typeof kbps === 'number' ? `${kbps / 1000}` : '');
  const minutes = (value: number | null | undefined): string => (typeof value === 'number' ? `${value}` : '');
  return {
    ...{ down: mbps(limits?.rate?.down), up: mbps(limits?.rate?.up) },
    ...{ session: minutes(limits?.session), idle: minutes(limits?.idle), again: minutes(limits?.again) },
  };
}

const NUMBER = /^\d{1,6}([.,]\d{1,3})?$/;
const cleaned = (text: string): string => text.trim().replace(/\s*(Mb\/s|min|minutes?)$/i, '');
const read = (text: string): number | null => (cleaned(text) === '' ? null : Number(cleaned(text).replace(',', '.')));

/** The limits that were typed. */
export function limitsOf(text: LimitsText): Required<ClassLimits> {
  const kbps = (typed: string): number | null => {
    const mbps = read(typed);
    return mbps === null ? null : Math.round(mbps * 1000);
  };
  const said = { down: kbps(text.down), up: kbps(text.up) };
  const kept = Object.entries(said).filter(([, value]) => value !== null);
  return {
    rate: kept.length > 0 ? Object.fromEntries(kept) : null,
    ...{ session: read(text.session), idle: read(text.idle), again: read(text.again) },
  };
}

/** What is wrong with a field: as it is typed, or as core said. */
export function limitFlaw(text: LimitsText, field: Field, problem: Problem | null): string {
  if (cleaned(text[field]) !== '' && !NUMBER.test(cleaned(text[field]))) return 'A number, such as 20, or nothing.';
  return problem?.of(FIELD_OF[field]) ?? '';
}

/** Whether all of it can be read. */
export const limitsReadable = (text: LimitsText): boolean =>
  (Object.keys(FIELD_OF) as Field[]).every((field) => limitFlaw(text, field, null) === '');
