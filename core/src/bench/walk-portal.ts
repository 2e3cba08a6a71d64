import { appliesAt, type ApDocument, type SsidDocument } from '../document';
import { minuteWords, writeTimes } from '../rules';
import type { GuestFact, Probe, WalkFacts } from './probe';
import { pass, stop, type WalkStep } from './walk-step';

/** Why a guest who was let in is not any more. */
const WHY: Readonly<Record<NonNullable<GuestFact['why']>, string>> = {
  quota: 'What it may take today is used up',
  over: 'Its visit is over',
  rest: 'Its visit is over, and it has to wait until it lets itself in again',
  idle: 'Its visit ended since it took nothing for long',
  hours: 'Nobody is let in at that hour',
};

/** Most lines of a walled garden that are told. */
const MOST_TOLD = 5;

/** Whether the portal of an SSID lets a probe in; null where it has none. */
export function portalStep(
  { device }: ApDocument,
  { portal }: SsidDocument,
  { letIn }: Probe,
  { guest, minute, day = '' }: WalkFacts,
): WalkStep | null {
  if (!portal) return null;
  const { id, name, garden = [], hours } = portal;
  const by = { kind: 'portal' as const, id, name };
  if (hours && !appliesAt(hours, minute, day)) {
    const left = hours.closed?.includes(day) ? `, and ${day} is left out` : '';
    const times = `guests are let in ${writeTimes(hours.times)} (${hours.name}); there it is ${minuteWords(minute)}${left}.`;
    return stop('portal', `Held back by “${name}”`, `Nobody is let in at that hour: ${times}`, by);
  }
  if (letIn)
    return pass(
      'portal',
      `Let in by “${name}”`,
      `As a guest who has signed in: ${device.name} lets all of it pass.`,
      by,
    );
  if (guest?.letIn) {
    const left = guest.left === null ? '' : ` and ${Math.floor(guest.left / 1_000_000)} MB more today`;
    return pass('portal', `Let in by “${name}”`, `Its visit goes on until ${guest.until}${left}.`, by);
  }
  const why = guest?.why ? WHY[guest.why] : 'Nobody has let it in yet';
  const more = garden.length > MOST_TOLD ? ` and ${garden.length - MOST_TOLD} more` : '';
  const besides = garden.length > 0 ? `, and to ${garden.slice(0, MOST_TOLD).join(', ')}${more}` : '';
  const detail = `${why}: ${device.name} answers what it asks for by HTTP at port 80 with a way to the portal, and lets nothing pass but names, the portal${besides}.`;
  return stop('portal', `Held back by “${name}”`, detail, by);
}
