import { parseIp } from '../address';
import { gardenDoubt, isNobody, LEAST_DAYS, NO_SPONSORS, readGarden, readPage, termsVersion } from '../guests';
import { isNamedAt, leadingPorts, type KeptGuarantee, type Portal, type ResolvedSite } from '../intent';
import type { Documents } from '../lattice';
import { halfHoursOf, writeTimes, type RuleEnd } from '../rules';
import type { Check } from './check';
import type { Finding } from './finding';
import { proveGuarantee } from './guarantee-results';
import type { GuestFacts } from './guest-facts';
import type { PolicyView } from './policy-view';
import { guestSegments, portalAtDevice } from './portal-ports';

/** Portals that hold guests at a site: of SSIDs, of ports, and those that an answer of a server may name. */
function heldAt(site: ResolvedSite): Portal[] {
  const { ssids, estate } = site;
  const ids = new Set([...ssids.flatMap(({ held }) => held?.id ?? []), ...leadingPorts(site).keys()]);
  return (estate.portals ?? []).filter((portal) => ids.has(portal.id) || isNamedAt(portal, estate, site.id));
}

const found = (
  siteId: string,
  { id }: Pick<Portal, 'id'>,
  code: string,
  rest: Pick<Finding, 'severity' | 'message' | 'reason' | 'mend'>,
): Finding => ({ key: `${code} ${id}`, code, ...rest, place: { siteId, kind: 'portal', id } });

/** Walled gardens that let more pass than anybody means, of portals that hold guests at a site. */
const wideGarden: Check = ({ site }) =>
  heldAt(site).flatMap((portal): Finding[] => {
    const wide = portal.garden.filter((line) => {
      const entry = readGarden(line);
      return entry !== null && gardenDoubt(entry) !== null;
    });
    const [first, ...more] = wide;
    if (first === undefined) return [];
    const which = more.length > 0 ? `${first} and ${more.length} more` : first;
    return [
      found(site.id, portal, 'guests.garden-wide', {
        severity: 'warning',
        message: `Guests of “${portal.name}” reach ${which} without signing in`,
        reason: `${first}: ${gardenDoubt(readGarden(first)!)}. Whoever knows that needs no portal: name what guests really need before they sign in.`,
        mend: {
          label: `take ${which} out of what is reached without signing in`,
          operations: [
            {
              type: 'portal.set',
              portalId: portal.id,
              from: { garden: portal.garden },
              to: { garden: portal.garden.filter((line) => !wide.includes(line)) },
            },
          ],
        },
      }),
    ];
  });

/** Portals at which somebody has to say yes, and nobody may. */
const nobodySays: Check = ({ site }) =>
  heldAt(site).flatMap((portal): Finding[] => {
    if (!portal.ways.includes('sponsor') || !isNobody(portal.sponsors ?? NO_SPONSORS)) return [];
    const others = portal.ways.filter((way) => way !== 'sponsor');
    return [
      found(site.id, portal, 'guests.sponsors-none', {
        severity: 'error',
        message: `Nobody may say yes to guests of “${portal.name}”`,
        reason:
          'Guests are asked whom they visit, and no answer does. Say by mail domains, addresses or groups who may.',
        mend:
          others.length === 0
            ? null
            : {
                label: 'ask nobody: leave the other ways in',
                operations: [
                  { type: 'portal.set', portalId: portal.id, from: { ways: portal.ways }, to: { ways: others } },
                ],
              },
      }),
    ];
  });

/** Portals that would send what cannot be sent. */
const cannotSend: Check = ({ site, guests }) => {
  if (!guests) return [];
  return heldAt(site).flatMap((portal): Finding[] => {
    const { ways } = portal;
    const mail = !guests.mail && (ways.includes('mail') || ways.includes('sponsor'));
    const texts = !guests.texts && ways.includes('phone');
    if (!mail && !texts) return [];
    const what = mail && texts ? 'mail and text messages' : mail ? 'mail' : 'text messages';
    return [
      found(site.id, portal, 'guests.cannot-send', {
        severity: 'error',
        message: `“${portal.name}” needs ${what}, and none can be sent`,
        reason: `Nothing is said of how ${what} ${mail && texts ? 'are' : texts ? 'are' : 'is'} sent: say it under Guests, Mail. Until then guests get no code and nobody is asked.`,
        mend: null,
      }),
    ];
  });
};

/** Portals whose codes are guessed too soon. */
const easyCodes: Check = ({ site, guests }) =>
  heldAt(site).flatMap((portal): Finding[] => {
    const easy = guests?.easy.find(({ portalId }) => portalId === portal.id);
    if (!easy || !portal.ways.includes('code')) return [];
    return [
      found(site.id, portal, 'guests.codes-easy', {
        severity: 'warning',
        message: `A visit code of “${portal.name}” is guessed in ${easy.days === 1 ? 'a day' : `${easy.days} days`}`,
        reason: `That is how long it takes to hit one with a chance of one in a hundred, at all the tries that a portal allows; ${LEAST_DAYS} days are the least that is safe. Take the short codes back, and make longer ones.`,
        mend: null,
      }),
    ];
  });

/** Guests who are in, and agreed to other terms than they would be asked about now. */
const otherTerms: Check = ({ site, guests }) =>
  heldAt(site).flatMap((portal): Finding[] => {
    if (!portal.agree || !guests) return [];
    const now = new Set(portal.languages.map((language) => termsVersion(portal, language)));
    const old = guests.agreed.filter(({ portalId, terms }) => portalId === portal.id && !now.has(terms));
    if (old.length === 0) return [];
    return [
      found(site.id, portal, 'guests.terms-changed', {
        severity: 'info',
        message: `Guests of “${portal.name}” are let in who agreed to other terms`,
        reason: `They agreed to ${old.length === 1 ? `version ${old[0]!.terms}` : `${old.length} other versions`}, and are asked anew when their visit is over. Whoever has to agree now: end their visits, under Guests, Visits.`,
        mend: null,
      }),
    ];
  });

/** Portals that ask servers for names and passwords where there are none, or have passwords pass in the clear. */
const knownNames: Check = ({ site, guests }) =>
  heldAt(site).flatMap((portal): Finding[] => {
    if (!portal.ways.includes('user')) return [];
    const { ways } = portal;
    const others = ways.filter((way) => way !== 'user');
    const set = (from: Partial<Portal>, to: Partial<Portal>, label: string): Finding['mend'] => ({
      label,
      operations: [{ type: 'portal.set', portalId: portal.id, from, to }],
    });
    const nobody = found(site.id, portal, 'guests.servers-none', {
      severity: 'error',
      message: `“${portal.name}” asks RADIUS servers for names and passwords, and none is here`,
      reason: `No server of the estate reaches ${site.name}: nobody is let in by a name. Add one under Entry, or have the users asked that the controller keeps.`,
      mend: set(
        { users: 'servers' },
        { users: null },
        'ask the controller: the users that it keeps, and its directory',
      ),
    });
    const plain = found(site.id, portal, 'guests.passwords-plain', {
      severity: 'warning',
      message: `Guests of “${portal.name}” send passwords that others on the air can read`,
      reason: `Its page is at ${guests?.url}, which is not encrypted. Give the controller a certificate for it (LATTICE_PORTAL_CERT), or a proxy that has one (LATTICE_PORTAL_URL).`,
      mend: others.length === 0 ? null : set({ ways }, { ways: others }, 'take names and passwords out of its ways in'),
    });
    return [
      ...(portal.users === 'servers' && site.radiusServers.length === 0 ? [nobody] : []),
      ...(guests && readPage(guests.url)?.secure === false ? [plain] : []),
    ];
  });

/** Portals at which guests sign in with an account elsewhere, and nothing is said of where. */
const noAccounts: Check = ({ site }) =>
  heldAt(site).flatMap((portal): Finding[] => {
    if (!portal.ways.includes('account') || portal.account) return [];
    const others = portal.ways.filter((way) => way !== 'account');
    return [
      found(site.id, portal, 'guests.account-none', {
        severity: others.length === 0 ? 'error' : 'warning',
        message: `“${portal.name}” has guests sign in with an account, and does not say whose`,
        reason:
          'Say who keeps the accounts, and what it knows this controller as. Until then nobody is let in by that.',
        mend:
          others.length === 0
            ? null
            : {
                label: 'leave the other ways in',
                operations: [
                  { type: 'portal.set', portalId: portal.id, from: { ways: portal.ways }, to: { ways: others } },
                ],
              },
      }),
    ];
  });

/** Portals that let nobody in while an SSID that leads to them is sent. */
const neverMeet: Check = ({ site }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const { held, within, heldWithin: open } = ssid;
    if (!held || !open || !within) return [];
    const [sent, lets] = [within, open].map(({ times }) => halfHoursOf(times));
    if (sent!.some((on, half) => on && lets![half])) return [];
    return [
      {
        ...found(site.id, held, 'guests.hours-apart', {
          severity: 'error',
          message: `Nobody is ever let in on “${ssid.name}”: its hours and those of “${held.name}” never meet`,
          reason: `It is sent at ${within.name} (${writeTimes(within.times)}), and guests are let in at ${open.name} (${writeTimes(open.times)}).`,
          mend: {
            label: `let guests of “${held.name}” in at all hours`,
            operations: [
              { type: 'portal.set', portalId: held.id, from: { hours: held.hours ?? null }, to: { hours: null } },
            ],
          },
        }),
        key: `guests.hours-apart ${ssid.id}`,
      },
    ];
  });

export const PORTAL_CHECKS: readonly Check[] = [
  wideGarden,
  nobodySays,
  cannotSend,
  easyCodes,
  otherTerms,
  knownNames,
  noAccounts,
  neverMeet,
  portalAtDevice,
];

/** Pages that guests sign in at and that the rules of a site keep them from, as far as it is known by address where they are. */
export function stoppedPortals(
  site: ResolvedSite,
  documents: Documents,
  guests: GuestFacts | undefined,
  view: PolicyView,
): Finding[] {
  const page = guests ? readPage(guests.url) : null;
  const address = page ? parseIp(page.host) : null;
  if (!guests || !page || !address || isLoopback(page.host)) return [];
  const own = /:(\d+)$/.exec(guests.url)?.[1];
  const port = own ?? (page.secure ? '443' : '80');
  const to: RuleEnd = { kind: 'addresses', text: page.host };
  const places = [
    ...site.ssids.flatMap(({ id, name, held }) =>
      held ? [{ id, portal: held, from: { kind: 'ssid' as const, name }, on: `on “${name}”` }] : [],
    ),
    ...guestSegments(site, documents).map(({ portal, segment: { id, name } }) => ({
      ...{ id: `${portal.id} ${id}`, portal, from: { kind: 'segment' as const, name }, on: `by cable in ${name}` },
    })),
  ];
  return places.flatMap(({ id, portal, from, on }): Finding[] => {
    const services = [{ protocol: 'tcp' as const, ports: [port] }];
    const always: KeptGuarantee = { id, kind: 'always', from: [from], to: [to], services };
    const { state, packet, why } = proveGuarantee(always, false, site, view);
    if (state !== 'broken') return [];
    return [
      {
        ...found(site.id, portal, 'guests.portal-stopped', {
          severity: 'error',
          message: `Guests ${on} do not reach the page that they sign in at`,
          reason: `${packet}. ${why} Nobody could sign in: let TCP ${port} through from there to ${page.host}.`,
          mend: null,
        }),
        key: `guests.portal-stopped ${id}`,
      },
    ];
  });
}

const isLoopback = (host: string): boolean => host.startsWith('127.') || host === '::1';
