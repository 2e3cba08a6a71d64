import { asHeard, nameDoubt } from '../base';
import { asksPassphrase } from '../document';
import { segmentsOfSsid, type KeptGuarantee, type ResolvedSite, type Ssid } from '../intent';
import { halfHoursOf, type RuleEnd } from '../rules';
import type { Check } from './check';
import type { Finding } from './finding';
import { keysNowhere } from './lost-keys';
import { found, mendOf } from './ssid-finding';
import { proveGuarantee } from './guarantee-results';
import type { PolicyView } from './policy-view';

/** What an SSID asks for, in a sentence. */
const ASKS: Readonly<Record<Ssid['security'], string>> = {
  open: 'nothing',
  owe: 'nothing but encryption (OWE)',
  'wpa2-psk': 'WPA2',
  'wpa2-wpa3-psk': 'WPA2 or WPA3',
  'wpa3-sae': 'WPA3',
  'wpa2-enterprise': 'who it is (WPA2 with 802.1X)',
  'wpa2-wpa3-enterprise': 'who it is (WPA2 or WPA3 with 802.1X)',
  'wpa3-enterprise': 'who it is (WPA3 with 802.1X)',
  'wpa3-enterprise-192': 'who it is (WPA3 of 192 bits with 802.1X)',
};

/** Names that are others than they look like. */
const doubtfulName: Check = ({ site }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const doubt = nameDoubt(ssid.name);
    if (!doubt) return [];
    const { plain } = doubt;
    const taken = plain !== null && site.estate.ssids.some(({ name }) => name === plain);
    return [
      found(site.id, ssid, 'wireless.name-doubt', {
        severity: 'warning',
        message: `“${asHeard(ssid.name)}” is another name than it looks like`,
        reason: `It ${doubt.words}. Whoever types it as it is read does not find it, and whoever imitates it is not told from it.`,
        mend: plain === null || taken ? null : mendOf(site, ssid, `call it “${plain}”`, { name: plain }),
      }),
    ];
  });

/** One name that asks for something else at other sites: what a client keeps of one does not open the other. */
const twoSecurities: Check = ({ site }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const others = site.estate.ssids.filter(
      (other) => other.id !== ssid.id && !other.off && other.name === ssid.name && other.security !== ssid.security,
    );
    const [other] = others;
    if (!other) return [];
    return [
      found(site.id, ssid, 'wireless.two-securities', {
        severity: 'warning',
        message: `“${asHeard(ssid.name)}” asks for ${ASKS[ssid.security]} here, and for ${ASKS[other.security]} elsewhere`,
        reason:
          'A client keeps one way in for a name. Who knows it from the other sites is refused here, or asked for something anew.',
        mend: null,
      }),
    ];
  });

/** A hidden name with two ways in. */
const hiddenTransition: Check = ({ site }) =>
  site.ssids
    .filter(({ hidden, security }) => hidden && (security === 'wpa2-wpa3-psk' || security === 'wpa2-wpa3-enterprise'))
    .map((ssid) =>
      found(site.id, ssid, 'wireless.hidden-transition', {
        severity: 'warning',
        message: `“${asHeard(ssid.name)}” is hidden and takes both WPA2 and WPA3`,
        reason:
          'Clients learn from beacons what a network takes. Many that ask for a hidden one by name stay with WPA2, though they could do WPA3; and everybody near reads the name when they ask.',
        mend: mendOf(site, ssid, 'show its name', { hidden: null }),
      }),
    );

/** Passphrases that guessers try first. */
const commonPassphrase: Check = ({ site, common = [] }) =>
  site.ssids
    .filter(({ security, passphrase }) => passphrase && asksPassphrase(security) && common.includes(passphrase.secret))
    .map((ssid) =>
      found(site.id, ssid, 'wireless.passphrase-common', {
        severity: 'warning',
        message: `The passphrase of “${asHeard(ssid.name)}” is one that guessers try first`,
        reason:
          'Whoever hears one client join can try millions of them at home, and these come first. Give it another: a few words that do not belong together do well.',
        mend: null,
      }),
    );

/** Hours that are all hours. */
const alwaysOn: Check = ({ site }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const { within } = ssid;
    if (!within || (within.closed ?? []).length > 0 || halfHoursOf(within.times).includes(false)) return [];
    return [
      found(site.id, ssid, 'wireless.hours-always', {
        severity: 'info',
        message: `The hours of “${asHeard(ssid.name)}” always apply`,
        reason: `“${within.name}” is every half hour of the week, without a day that is left out.`,
        mend: mendOf(site, ssid, 'send it without hours', { hours: null }),
      }),
    ];
  });

/** SSIDs that none of the APs is there for that were chosen to send them. */
const sentByNobody: Check = ({ site, roster }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const { senders, apTags } = ssid;
    if (!senders || roster.some(({ id }) => senders.includes(id))) return [];
    const tag = apTags?.[site.id];
    const from = { aps: { [site.id]: senders }, ...(tag === undefined ? {} : { apTags: { [site.id]: tag } }) };
    const to = { aps: {}, ...(tag === undefined ? {} : { apTags: {} }) };
    return [
      found(site.id, ssid, 'wireless.no-ap', {
        severity: 'error',
        message: `No AP of ${site.name} sends “${asHeard(ssid.name)}”`,
        reason: `It is sent by chosen APs here, and none of those ${senders.length} is at this site any more.`,
        mend: {
          label: 'send it by every AP here',
          operations: [{ type: 'ssid.set', ssidId: ssid.id, from, to }],
        },
      }),
    ];
  });

/** Keys of a ring that lead to segments which are not here let nobody in. */
const ringNowhere: Check = ({ site }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const there = new Set((ssid.ringSegments ?? []).map(({ name }) => name));
    const missing = (ssid.ring ?? []).filter((name) => !there.has(name));
    if (missing.length === 0) return [];
    const [first, ...more] = missing;
    const alone = ssid.reach.kind === 'sites' && ssid.reach.siteIds.length === 1;
    return [
      found(site.id, ssid, 'wireless.ring-nowhere', {
        severity: there.size > 0 ? 'warning' : 'info',
        message: `Keys of “${ssid.name}” that lead to ${first}${more.length > 0 ? ` and ${more.length} more` : ''} let nobody in at ${site.name}`,
        reason: `Keys may lead to ${missing.length === 1 ? 'a segment' : `${missing.length} segments`} that this site does not have. Whoever gives one of these is refused here.`,
        // Where it is sent elsewhere too, they may be meant for there.
        mend: alone
          ? mendOf(site, ssid, 'leave them out of the ring', {
              ring: (ssid.ring ?? []).filter((name) => there.has(name)),
            })
          : null,
      }),
    ];
  });

export const SSID_CHECKS: readonly Check[] = [
  sentByNobody,
  ringNowhere,
  keysNowhere,
  doubtfulName,
  twoSecurities,
  hiddenTransition,
  commonPassphrase,
  alwaysOn,
];

/** SSIDs that anybody joins and that reach private space, but for what the gateway itself answers. */
export function openFindings(site: ResolvedSite, view: PolicyView): Finding[] {
  return site.ssids.flatMap((ssid): Finding[] => {
    const open = ssid.security === 'open' || ssid.security === 'owe';
    if (!open && !ssid.held) return [];
    const own = segmentsOfSsid(ssid).map((id) => site.segments.find((segment) => segment.id === id)!.name);
    // What its own segment holds is beside the question: clients are kept apart, or not, by that.
    const besides: RuleEnd[] = [{ kind: 'gateway' }, ...own.map((name) => ({ kind: 'segment' as const, name }))];
    const never: KeptGuarantee = {
      ...{ id: ssid.id, kind: 'never', services: [{ protocol: 'any' }] },
      ...{ from: [{ kind: 'ssid', name: ssid.name }], to: [{ kind: 'private' }], besides },
    };
    const { state, packet, why } = proveGuarantee(never, false, site, view);
    if (state !== 'broken') return [];
    return [
      found(site.id, ssid, ssid.held ? 'guests.reach-private' : 'wireless.open-reaches', {
        severity: 'warning',
        message: ssid.held
          ? `Guests who are let in on “${asHeard(ssid.name)}” reach private space`
          : `Anybody who joins “${asHeard(ssid.name)}” reaches private space`,
        reason: `${ssid.held ? `“${ssid.held.name}” lets them in` : `It asks for ${ASKS[ssid.security]}`}. ${packet}. ${why}`,
        mend: ssid.isolation?.segments
          ? null
          : mendOf(site, ssid, 'keep its clients from other segments', {
              isolation: { ...ssid.isolation, segments: true },
            }),
      }),
    ];
  });
}
