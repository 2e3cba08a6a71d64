import { flaw, type Flaw } from '../../base';
import { asksPassphrase, asksWho } from '../../document';
import { isDay } from '../../rules';
import { capFlaws } from '../../traffic';
import type { EstatePart } from '../part';
import { reachesMeet } from '../reach';
import { ssidAt } from './exception';
import { JOIN_FROM, JOIN_TO, MOST_CLIENTS, OWN_GATEWAY, STAY_BELOW, type Ssid } from './ssid';

/** Bytes of a text in UTF-8. */
export function utf8Length(text: string): number {
  let bytes = 0;
  for (const char of text) {
    const point = char.codePointAt(0)!;
    bytes += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
  }
  return bytes;
}

/**
 * Checks an SSID alone and against the estate's others where both can be heard, and what is otherwise at single sites.
 * @param nameOf names a site.
 */
export function checkSsid(ssid: Ssid, estate: EstatePart, nameOf: (siteId: string) => string | undefined): Flaw[] {
  const flaws = checkHeard(ssid, estate);
  const known = new Set(flaws.map(({ code, field }) => `${code} ${field}`));
  for (const siteId of Object.keys(ssid.exceptions ?? {})) {
    const here = checkHeard(ssidAt(ssid, siteId), estate).filter(({ code, field }) => !known.has(`${code} ${field}`));
    const [at, own] = [nameOf(siteId) ?? 'a site that is gone', ssid.exceptions![siteId]!.passphrase];
    if (own && (ssid.ring || !asksPassphrase(ssid.security)))
      here.push(flaw('ssid.passphrase-asked', 'Nobody is asked for a passphrase.', 'passphrase'));
    flaws.push(...here.map((each) => ({ ...each, message: `At ${at}: ${each.message}` })));
  }
  const twin = twinOf(ssid, estate);
  if (twin) flaws.push(flaw('ssid.name-taken', `“${ssid.name}” is already sent at one of these sites.`, 'name'));
  return flaws;
}

/** Checks an SSID as it is heard somewhere. */
function checkHeard(ssid: Ssid, estate: EstatePart): Flaw[] {
  const flaws: Flaw[] = [...nameFlaws(ssid.name), ...securityFlaws(ssid), ...behaviourFlaws(ssid)];
  flaws.push(...capFlaws(ssid.caps ?? {}, 'switch the SSID off instead'));
  if (ssid.bands.length === 0) flaws.push(flaw('ssid.bands-none', 'Choose at least one band.', 'bands'));
  if (ssid.segment.trim() === '')
    flaws.push(flaw('ssid.segment-none', 'Choose the segment its clients join.', 'segment'));
  if (ssid.hours && !estate.hours?.some(({ id }) => id === ssid.hours))
    flaws.push(flaw('ssid.hours-unknown', 'These hours are no longer there. Choose others, or always.', 'hours'));
  if (ssid.portal && !estate.portals?.some(({ id }) => id === ssid.portal))
    flaws.push(flaw('ssid.portal-unknown', 'This portal is no longer there. Choose another, or none.', 'portal'));
  flaws.push(...tunnelFlaws(ssid, estate));
  if (Object.values(ssid.aps ?? {}).some((ids) => ids.length === 0))
    flaws.push(flaw('ssid.aps-none', 'Choose an AP at least, or let it reach another site instead.', 'aps'));
  return flaws;
}

/** What is carried to another site joins one segment there, whoever it is. */
function tunnelFlaws({ tunnel, ring, byClass }: Ssid, { members = [] }: EstatePart): Flaw[] {
  if (!tunnel || tunnel === OWN_GATEWAY) return [];
  if (!members.some(({ siteId }) => siteId === tunnel)) {
    const words =
      'That site is not joined to others, so no tunnel leads there. Join it under Paths, or choose another.';
    return [flaw('ssid.tunnel-unknown', words, 'tunnel')];
  }
  if (ring) {
    const words =
      'Keys of a ring lead to segments of each site. Carried to another site all join one: give it a passphrase.';
    return [flaw('ssid.tunnel-ring', words, 'tunnel')];
  }
  if (!byClass) return [];
  const words = 'Classes have segments of each site. Carried to another site all join one: do not join them by class.';
  return [flaw('ssid.tunnel-class', words, 'tunnel')];
}

/** Whether it is heard anywhere: one that is switched off is not, but at sites that say otherwise. */
const isHeard = ({ off, exceptions }: Ssid): boolean =>
  !off || Object.values(exceptions ?? {}).some((here) => here.off === false);

const twinOf = (ssid: Ssid, { ssids }: EstatePart): Ssid | undefined =>
  ssids.find(
    (other) =>
      other.id !== ssid.id &&
      other.name === ssid.name &&
      isHeard(other) &&
      isHeard(ssid) &&
      reachesMeet(other.reach, ssid.reach),
  );

function nameFlaws(name: string): Flaw[] {
  const bytes = utf8Length(name);
  if (bytes === 0) return [flaw('ssid.name-empty', 'Give the SSID a name.', 'name')];
  if (bytes > 32) return [flaw('ssid.name-long', `An SSID has 32 bytes at most; this one has ${bytes}.`, 'name')];
  // Some clients take zeros for no name at all, and nobody can choose what cannot be seen.
  if (/^[\s\p{C}\p{Default_Ignorable_Code_Point}]*$/u.test(name))
    return [
      flaw('ssid.name-blank', 'Nobody could see this name: it has blanks and invisible characters alone.', 'name'),
    ];
  return [];
}

/** A key for each is a thing of WPA2: SAE lets both ends choose before either knows who the other is (RFC 7664 §2). */
function ringFlaws({ bands, security, former }: Ssid): Flaw[] {
  const flaws: Flaw[] = [];
  if (security !== 'wpa2-psk')
    flaws.push(
      flaw('ssid.ring-wpa3', 'A key ring is WPA2: WPA3 knows one passphrase, and the others none.', 'security'),
    );
  if (bands.includes('6'))
    flaws.push(
      flaw('ssid.ring-6ghz', '6 GHz takes no key ring. Leave 6 GHz out, or send another SSID there.', 'bands'),
    );
  if (former)
    flaws.push(flaw('ssid.ring-former', 'Each key of a ring ends by itself: no old passphrase beside it.', 'former'));
  return flaws;
}

function securityFlaws(ssid: Ssid): Flaw[] {
  const { bands, security, passphrase, former, roam, ring } = ssid;
  if (ring) return ringFlaws(ssid);
  const flaws: Flaw[] = [];
  // IEEE 802.11ax-2021 §12.12: WPA3 or OWE alone at 6 GHz.
  if (bands.includes('6') && security === 'wpa2-psk')
    flaws.push(flaw('ssid.6ghz-wpa2', '6 GHz takes WPA3 only. Choose WPA2/WPA3 or WPA3.', 'bands'));
  if (bands.includes('6') && security === 'wpa2-enterprise')
    flaws.push(flaw('ssid.6ghz-wpa2', '6 GHz takes WPA3 only. Choose WPA2/WPA3 or WPA3 with 802.1X.', 'bands'));
  if (bands.includes('6') && security === 'open')
    flaws.push(
      flaw('ssid.6ghz-open', '6 GHz takes nothing open. Choose enhanced open (OWE), or leave 6 GHz out.', 'bands'),
    );
  if (asksPassphrase(security) && !passphrase)
    flaws.push(flaw('ssid.passphrase-none', 'Give the passphrase its clients are asked for.', 'passphrase'));
  if (former && security === 'wpa3-sae') {
    const words = 'WPA3 knows one passphrase: for as long as the old one stays valid, take WPA2/WPA3.';
    flaws.push(flaw('ssid.former-wpa3', words, 'former'));
  }
  if (former && former.secret === passphrase?.secret)
    flaws.push(flaw('ssid.former-same', 'The old passphrase is the new one.', 'former'));
  if (former && !isDay(former.until))
    flaws.push(flaw('ssid.former-day', `“${former.until}” is no day; write it like 2026-12-31.`, 'former'));
  if (roam?.includes('r') && !asksPassphrase(security) && !asksWho(security)) {
    const words = 'Keys that are there already (802.11r) need a passphrase, or 802.1X, that they are made of.';
    flaws.push(flaw('ssid.roam-keys', words, 'roam'));
  }
  return flaws;
}

function behaviourFlaws({ join, stay, most, steer, bands }: Ssid): Flaw[] {
  const flaws: Flaw[] = [];
  for (const [field, value] of Object.entries({ join, stay }))
    if (typeof value === 'number' && (value < JOIN_FROM || value > JOIN_TO))
      flaws.push(flaw(`ssid.${field}`, `A signal lies between ${JOIN_FROM} and ${JOIN_TO} dBm.`, field));
  if (typeof join === 'number' && typeof stay === 'number' && stay > join - STAY_BELOW) {
    const words = `Whoever is taken in at ${join} dBm would come and go: let them stay down to ${join - STAY_BELOW} dBm or less.`;
    flaws.push(flaw('ssid.stay-above', words, 'stay'));
  }
  if (typeof most === 'number' && (most < 1 || most > MOST_CLIENTS))
    flaws.push(flaw('ssid.most', `A radio takes 1 to ${MOST_CLIENTS} clients of an SSID.`, 'most'));
  if (steer && !(bands.includes('2.4') && bands.length > 1))
    flaws.push(flaw('ssid.steer', 'Steering needs 2.4 GHz and a wider band to steer to.', 'steer'));
  return flaws;
}

/**
 * Checks a passphrase: 8 to 63 printable ASCII characters (IEEE 802.11-2020 Annex J.4.1), or exactly 64 hex
 * digits, which are the key itself; SAE has no such key, so WPA3 alone refuses those.
 */
export function checkPassphrase(text: string, security: Ssid['security']): Flaw[] {
  if (/^[0-9a-fA-F]{64}$/.test(text)) {
    if (security === 'wpa2-psk') return [];
    return [flaw('ssid.passphrase-hex', 'WPA3 takes a passphrase, not a 64-digit key.', 'passphrase')];
  }
  if (/^[\x20-\x7e]{8,63}$/.test(text)) return [];
  const text2 = 'A passphrase has 8 to 63 characters: letters, digits, blanks and punctuation without accents.';
  return [flaw('ssid.passphrase', text2, 'passphrase')];
}
