import { captiveAnswer, codeAnswer, dayWindow, quotaDay, quotaState, type VisitTerms } from '../src/guests';

const on = <Input>(call: (input: Input) => unknown): ((input: never) => unknown) => call;
/** A moment as vectors write it, in UTC with or without saying so. */
const at = (text: string): number => Date.parse(text.endsWith('Z') ? text : `${text}Z`);
const maybe = (text: string | null): number | null => (text === null ? null : at(text));
const said = (moment: number): string => new Date(moment).toISOString().replace('.000Z', 'Z');

interface Code {
  readonly mode: 'creation' | 'first_use';
  readonly created: string;
  readonly first_use: string | null;
  readonly redeem_by: string | null;
  readonly duration_s: number;
  readonly max_devices: number | null;
  readonly devices: readonly string[];
}
const termsOf = (code: Code): VisitTerms => ({
  runs: code.mode === 'creation' ? 'made' : 'used',
  ...{ madeAt: at(code.created), usedAt: maybe(code.first_use), useBy: maybe(code.redeem_by) },
  ...{ seconds: code.duration_s, most: code.max_devices, devices: code.devices },
});
const REASONS = { over: 'expired', devices: 'device_limit', quota: 'quota' } as const;

/** Functions of guests, by the names of their vectors. */
export const GUESTS_ADAPTER = {
  'guest.day_window': on((i: { tz: string; date: string }) => {
    const { start, end } = dayWindow(i.tz, i.date);
    return { start_utc: said(start), end_utc: said(end), length_s: (end - start) / 1000 };
  }),
  'guest.quota_day': on((i: { tz: string; at_utc: string }) => {
    const { day, end } = quotaDay(i.tz, at(i.at_utc));
    return { day, resets_utc: said(end) };
  }),
  'guest.quota_state': on(
    (i: {
      tz: string;
      quota_bytes: number;
      samples_utc_utc_bytes: readonly (readonly [string, string, number])[];
      now_utc: string;
    }) => {
      const counted = i.samples_utc_utc_bytes.map(([from, to, octets]) => ({ from: at(from), to: at(to), octets }));
      const { day, used, left, blocked, resets } = quotaState(i.tz, i.quota_bytes, counted, at(i.now_utc));
      return { day, used, remaining: left, blocked, resets_utc: said(resets) };
    },
  ),
  'guest.code': on((i: { code: Code; now_utc: string; mac: string; quota_blocked?: boolean }) => {
    const answer = codeAnswer(termsOf(i.code), i.mac, at(i.now_utc), i.quota_blocked);
    return { allow: answer.ok, reason: answer.ok ? null : REASONS[answer.why], expires_utc: said(answer.until) };
  }),
  'guest.rfc8908': on(
    (i: { authorized: boolean; expires_utc: string | null; now_utc: string; bytes_remaining: number | null }) =>
      captiveAnswer({ letIn: i.authorized, until: maybe(i.expires_utc), left: i.bytes_remaining }, at(i.now_utc)),
  ),
};
