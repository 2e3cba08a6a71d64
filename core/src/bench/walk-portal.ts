import type { ApDocument, SsidDocument } from '../document';
import type { Probe, WalkFacts } from './probe';
import { pass, stop, type WalkStep } from './walk-step';

/** Most lines of a walled garden that are told. */
const MOST_TOLD = 5;

/** Whether the portal of an SSID lets a probe in; null where it has none. */
export function portalStep(
  { device }: ApDocument,
  { portal }: SsidDocument,
  { letIn }: Probe,
  { guest }: WalkFacts,
): WalkStep | null {
  if (!portal) return null;
  const { id, name, garden = [] } = portal;
  const by = { kind: 'portal' as const, id, name };
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
  const why = guest?.why === 'quota' ? 'What it may take today is used up' : 'Nobody has let it in yet';
  const more = garden.length > MOST_TOLD ? ` and ${garden.length - MOST_TOLD} more` : '';
  const besides = garden.length > 0 ? `, and to ${garden.slice(0, MOST_TOLD).join(', ')}${more}` : '';
  const detail = `${why}: ${device.name} answers what it asks for by HTTP at port 80 with a way to the portal, and lets nothing pass but names, the portal${besides}.`;
  return stop('portal', `Held back by “${name}”`, detail, by);
}
