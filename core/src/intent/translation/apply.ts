import { inRange, meetsAny, parseIp, rangeSize, type IpRange } from '../../address';
import { flaw, type Flaw } from '../../base';
import { readAddresses } from '../../rules';
import type { RosterLookup } from '../edit';
import { editsOfList } from '../kept-list';
import type { Intent, SitePart } from '../part';
import { rangesOfSegment } from '../policy-names';
import type { RosterDevice } from '../roster';
import { check as checkRules } from '../rule/apply';
import { uplinkSettings } from '../uplink/setting';
import type { TranslationOperation } from './operations';
import { MOST_POOLED, MOST_TRANSLATIONS, type Translation } from './translation';

/** Applies an edit of a translation. */
export const applyTranslation = editsOfList<TranslationOperation, Translation, 'site'>({
  noun: 'translation',
  where: 'site',
  list: 'translations',
  normal: normalised,
  check: (intent, site, translation, { roster }) => check(intent, site, translation, roster),
});

function check(intent: Intent, site: SitePart, translation: Translation, roster: RosterLookup): Flaw[] {
  const { id, deviceId, name, turn, port, from, to } = translation;
  const device = roster(deviceId);
  if (!device || device.siteId !== site.id)
    return [flaw('translation.device-unknown', 'This gateway is no longer at the site.')];
  const flaws: Flaw[] = [];
  const others = (site.translations ?? []).filter((each) => each.id !== id && each.deviceId === deviceId);
  if (others.length >= MOST_TRANSLATIONS)
    flaws.push(flaw('translation.many', `A gateway has ${MOST_TRANSLATIONS} translations at most.`));
  if (name === '') flaws.push(flaw('translation.name-empty', 'Give the translation a name.', 'name'));
  if (others.some((each) => each.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('translation.name-taken', `${device.name} has a translation “${name}” already.`, 'name'));
  if (!(Number.isInteger(turn) && turn >= 0 && turn <= 9999))
    flaws.push(flaw('translation.turn', 'Its turn is a whole number from 0 to 9999.', 'turn'));
  // What is not in force waits for its uplink, and for addresses that nobody else has.
  if (!translation.off && !uplinkSettings(site, device).some((each) => each.port === port))
    flaws.push(
      flaw(
        'translation.port',
        port === '' ? 'Say by which uplink.' : `${port} of ${device.name} is no uplink.`,
        'port',
      ),
    );
  if (translation.as === 'pool' && !translation.off) flaws.push(...checkPool(intent, site, device, translation));
  const rule = { id, verdict: 'allow' as const, from, to, services: [{ protocol: 'any' as const }] };
  const wrong = checkRules(intent, { siteId: site.id }, [rule]);
  return [...flaws, ...wrong.map(({ code, message, field }) => flaw(code, message, field?.replace(/^rules\.0\./, '')))];
}

function checkPool(intent: Intent, site: SitePart, device: RosterDevice, { port, pool }: Translation): readonly Flaw[] {
  const range = readAddresses(pool ?? '');
  if (range?.version !== 4) {
    const why = pool ? `“${pool}” is no range of IPv4 addresses` : 'Say the addresses of the pool';
    return [flaw('translation.pool', `${why}, such as 203.0.113.12-203.0.113.14.`, 'pool')];
  }
  if (rangeSize(range) > MOST_POOLED)
    return [flaw('translation.pool-large', `A pool has ${MOST_POOLED} addresses at most.`, 'pool')];
  const inside = segmentWith(intent, range);
  if (inside)
    return [flaw('translation.pool-inside', `${inside} has some of these addresses: they are not outside.`, 'pool')];
  const fixed = uplinkSettings(site, device).find((each) => each.port === port)?.fixed;
  const own = [fixed?.address.split('/')[0], fixed?.gateway].flatMap((text) => (text ? (parseIp(text) ?? []) : []));
  const taken = own.find((each) => inRange(range, each));
  return taken
    ? [flaw('translation.pool-taken', 'The uplink’s own address and its gateway’s are no part of a pool.', 'pool')]
    : [];
}

/** A segment of the estate that has some of a range, in words. */
function segmentWith({ sites }: Intent, range: IpRange): string | null {
  for (const { name, segments } of sites.values()) {
    const found = segments.find((segment) => meetsAny(range, rangesOfSegment(segment)));
    if (found) return `${found.name} of ${name}`;
  }
  return null;
}

function normalised({ pool, off, ...translation }: Translation): Translation {
  return {
    ...translation,
    name: translation.name.trim(),
    ...(translation.as === 'pool' && pool ? { pool: pool.trim() } : {}),
    ...(off ? { off } : {}),
  };
}
