import { appliesAt, portalBySaid, type DeviceDocument, type PortalDocument, type SsidDocument } from '../document';
import { CAPTIVE_OPTION, captivePath } from '../guests';
import { minuteWords, writeTimes } from '../rules';
import type { AtPort } from '../lattice';
import type { AskedOne, GuestFact, PortalFact, WalkFacts } from './probe';
import { pass, stop, type Decider, type WalkStep } from './walk-step';

/** What was heard of servers about a probe. */
type Heard = Pick<WalkFacts, 'asked' | 'askedBy'>;

/** The portal that an answer names by which somebody was let in. */
function namedIn(at: DeviceDocument, asked: readonly AskedOne[] | undefined): PortalDocument | undefined {
  const { exchange } = asked?.at(-1) ?? {};
  return exchange?.end === 'accepted' ? portalBySaid(at, exchange) : undefined;
}

/** The portal that holds a probe on an SSID: one that an answer names, else that of the SSID. */
export const portalOnSsid = (ap: DeviceDocument, ssid: SsidDocument, { asked }: Heard): PortalDocument | undefined =>
  namedIn(ap, asked) ?? ssid.portal;

/** The same at a port: one that an answer names, or that of the port where nobody knows who it is. */
export function portalAtPort(
  device: DeviceDocument,
  portName: string,
  { vlan, way }: Pick<AtPort<string>, 'vlan' | 'way'>,
  { askedBy }: Heard,
): PortalDocument | undefined {
  if (vlan === null) return undefined;
  if (way) return namedIn(device, askedBy?.[way]);
  return device.ports.find(({ name }) => name === portName)?.portal;
}

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

/** What a portal makes of a probe at a device, from hearing of it to being let in; empty where none holds it. */
export function portalSteps(
  holder: DeviceDocument,
  portal: PortalDocument | undefined,
  probe: { readonly letIn?: boolean },
  facts: WalkFacts,
): WalkStep[] {
  if (!portal) return [];
  const judged = judge(holder, portal, probe, facts);
  if (!facts.portal) return [judged];
  const signsIn = probe.letIn && judged.passed ? [signedIn(holder, portal, facts.portal)] : [];
  return [told(holder, portal, facts.portal), ...signsIn, judged];
}

/** When it is held again, as the last step of somebody who was let in; null where there is none. */
export function heldAgainStep(portal: PortalDocument | undefined, { portal: fact }: WalkFacts): WalkStep | null {
  if (!portal || !fact) return null;
  const first = fact.limits.length > 1 ? 'Whichever is first: ' : '';
  const slower = fact.slows === undefined ? '' : `${fact.slows} `;
  const detail = `${slower}${first}${fact.limits.join(', ')}. Then it is held as before, and ${fact.after}; what there is for a day begins anew at midnight by the site’s clock.`;
  return pass('portal', 'Held again, in the end', detail, byOf(portal));
}

const byOf = ({ id, name }: PortalDocument): Decider => ({ kind: 'portal', id, name });

/** Whether a device is told by DHCP that it is held. */
function told({ device }: DeviceDocument, portal: PortalDocument, { url }: PortalFact): WalkStep {
  if (portal.quiet) {
    const detail = `${device.name} says nothing of it by DHCP, and what phones look at to learn whether they are held passes: no small window of theirs opens. The first page that is asked for by HTTP leads to ${url}.`;
    return pass('portal', 'Not told of it: the small window stays closed', detail, byOf(portal));
  }
  if (url.startsWith('https:')) {
    const detail = `${device.name} puts DHCP option ${CAPTIVE_OPTION} into the answer (RFC 8910): ${url}${captivePath('…')}. There the device learns that it is held, until when it is not, and where to sign in (RFC 8908).`;
    return pass('portal', 'Told of it with its address', detail, byOf(portal));
  }
  const detail = `The page is at ${url || 'no address yet'}: one that begins with https alone may be said by DHCP option ${CAPTIVE_OPTION} (RFC 8910), so a device finds it by what it is answered at port 80.`;
  return pass('portal', 'Not told of it with its address', detail, byOf(portal));
}

function signedIn({ device }: DeviceDocument, portal: PortalDocument, { url, ways }: PortalFact): WalkStep {
  const detail = `${device.name} answers what it asks for by HTTP at port 80 with a way to ${url}; HTTPS is left alone. It signs in by: ${ways.join(', ')}.`;
  return pass('portal', `Signs in at “${portal.name}”`, detail, byOf(portal));
}

function judge(
  { device }: DeviceDocument,
  portal: PortalDocument,
  { letIn }: { readonly letIn?: boolean },
  { guest, minute, day = '' }: WalkFacts,
): WalkStep {
  const { name, garden = [], hours } = portal;
  const by = byOf(portal);
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
    const left = guest.slowed
      ? ', slower: it has had what there is for a day'
      : guest.left === null
        ? ''
        : ` and ${Math.floor(guest.left / 1_000_000)} MB more today`;
    return pass('portal', `Let in by “${name}”`, `Its visit goes on until ${guest.until}${left}.`, by);
  }
  const why = guest?.why ? WHY[guest.why] : 'Nobody has let it in yet';
  const more = garden.length > MOST_TOLD ? ` and ${garden.length - MOST_TOLD} more` : '';
  const besides = garden.length > 0 ? `, and to ${garden.slice(0, MOST_TOLD).join(', ')}${more}` : '';
  const detail = `${why}: ${device.name} answers what it asks for by HTTP at port 80 with a way to the portal, and lets nothing pass but names, the portal${besides}.`;
  return stop('portal', `Held back by “${name}”`, detail, by);
}
