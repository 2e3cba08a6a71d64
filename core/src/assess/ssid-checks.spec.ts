import { expect, test } from 'vitest';
import { outagesOf, secretsOf, type ApDocument } from '../document';
import { apply, resolve, type EstatePart, type Ssid } from '../intent';
import { capPlaces, compileSite } from '../rollout';
import { readTimes } from '../rules';
import { applied, sampleSite } from '../testing';
import { findingsOf } from './consequences';

const { intent, site, roster, links } = sampleSite({ segments: 3, aps: 1 });
const [first, second] = intent.estate.ssids as [Ssid, Ssid];
const estateWith = (change: Partial<Ssid>, ...more: Ssid[]): EstatePart => ({
  ...intent.estate,
  ssids: [{ ...first, ...change }, ...more],
});
const found = (estate: EstatePart, code: string) =>
  findingsOf({ estate, site, roster, links }).filter((finding) => finding.code === code);

/** Findings of a kind once the mend of the first was made. */
function mended(estate: EstatePart, code: string) {
  const [finding] = found(estate, code);
  const before = { estate, sites: new Map([[site.id, site]]) };
  const outcome = apply(before, finding!.mend!.operations[0]!, (id) => roster.find((each) => each.id === id));
  if (!outcome.ok) throw new Error(JSON.stringify(outcome.flaws));
  return found(outcome.intent.estate, code);
}

test('a name with what is not seen is found, and called as it looks', () => {
  const doubtful = estateWith({ name: 'Deck\u200b' });
  expect(found(doubtful, 'wireless.name-doubt')).toMatchObject([
    { message: '“Deck‹U+200B›” is another name than it looks like', place: { kind: 'ssid', id: first.id } },
  ]);
  expect(mended(doubtful, 'wireless.name-doubt')).toEqual([]);
  expect(found(estateWith({ name: 'Deck ' }, { ...second, name: 'Deck' }), 'wireless.name-doubt')[0]!.mend).toBeNull();
});

test('one name that asks for something else at another site is found, unless that is switched off', () => {
  const elsewhere: Ssid = {
    ...second,
    name: first.name,
    security: 'owe',
    reach: { kind: 'sites', siteIds: ['other'] },
  };
  const here: Partial<Ssid> = { reach: { kind: 'sites', siteIds: [site.id] } };
  const code = 'wireless.two-securities';
  expect(found(estateWith(here, elsewhere), code)).toMatchObject([
    { message: `“${first.name}” asks for WPA2 or WPA3 here, and for nothing but encryption (OWE) elsewhere` },
  ]);
  expect(found(estateWith(here, { ...elsewhere, security: first.security }), code)).toEqual([]);
  expect(found(estateWith(here, { ...elsewhere, off: true }), code)).toEqual([]);
});

test('a hidden name that takes both is found, and shown again', () => {
  expect(mended(estateWith({ hidden: true }), 'wireless.hidden-transition')).toEqual([]);
  expect(found(estateWith({ hidden: true, security: 'wpa3-sae' }), 'wireless.hidden-transition')).toEqual([]);
});

test('what anybody joins and leads into private space is found with a packet; kept from other segments it is not', () => {
  const open = estateWith({ security: 'open', bands: ['5'] });
  const [finding] = found(open, 'wireless.open-reaches');
  expect(finding).toMatchObject({
    severity: 'warning',
    message: `Anybody who joins “${first.name}” reaches private space`,
  });
  expect(finding!.reason).toMatch(/^It asks for nothing\. .*10\./);
  expect(mended(open, 'wireless.open-reaches')).toEqual([]);
  expect(found(intent.estate, 'wireless.open-reaches')).toEqual([]);
  // Where others are in its segment, APs keep its clients from it, and them alone.
  const shared = estateWith({ security: 'owe' }, { ...second, segment: first.segment });
  expect(found(shared, 'wireless.open-reaches')).toHaveLength(1);
  expect(mended(shared, 'wireless.open-reaches')).toEqual([]);
});

test('a passphrase that guessers try first is found, as long as it is asked for', () => {
  const common = [first.passphrase!.secret];
  const of = (change: Partial<Ssid>, ids: readonly string[] = common) =>
    findingsOf({ estate: estateWith(change), site, roster, links, common: ids }).filter(
      ({ code }) => code === 'wireless.passphrase-common',
    );
  expect(of({})).toMatchObject([{ severity: 'warning', place: { kind: 'ssid', id: first.id }, mend: null }]);
  expect([of({}, []), of({ security: 'owe' }), of({ off: true })]).toEqual([[], [], []]);
});

test('hours that are all hours are found, and taken away', () => {
  const hours = { id: 'always', name: 'Always', times: readTimes('00:00-24:00')! };
  const always = { ...estateWith({ hours: hours.id }), hours: [hours] };
  expect(mended(always, 'wireless.hours-always')).toEqual([]);
  const office = { ...always, hours: [{ ...hours, times: readTimes('Mon-Fri 08:00-18:00')! }] };
  expect(found(office, 'wireless.hours-always')).toEqual([]);
  expect(found({ ...always, hours: [{ ...hours, closed: ['2026-12-25'] }] }, 'wireless.hours-always')).toEqual([]);
});

test('one that is switched off is sent by nobody, carried nowhere, and says nothing; all of it is kept', () => {
  const ap = roster.find(({ model }) => model.startsWith('AP'))!;
  const sent = (estate: EstatePart) => compileSite(resolve(estate, site), roster).get(ap.id) as ApDocument;
  expect(sent(estateWith({})).ssids).toHaveLength(1);
  expect(sent(estateWith({ off: true })).ssids).toEqual([]);
  expect(findingsOf({ estate: estateWith({ off: true, segment: 'Gone' }), site, roster, links })).toEqual(
    findingsOf({ estate: { ...intent.estate, ssids: [] }, site, roster, links }),
  );
});

test('chosen APs alone send an SSID, at the site they are chosen at; where none of them is left that is a fault', () => {
  const two = sampleSite({ segments: 3, aps: 2 });
  const [ap, other] = two.roster.filter(({ model }) => model.startsWith('AP')).map(({ id }) => id) as [string, string];
  const estate = (aps: Ssid['aps']): EstatePart => ({ ...two.intent.estate, ssids: [{ ...first, aps: aps ?? null }] });
  const sent = (aps: Ssid['aps']) => {
    const documents = compileSite(resolve(estate(aps), two.site), two.roster);
    return [ap, other].map((id) => (documents.get(id) as ApDocument).ssids.length);
  };
  expect([sent(null), sent({ [two.site.id]: [ap] }), sent({ elsewhere: [ap] })]).toEqual([
    [1, 1],
    [1, 0],
    [1, 1],
  ]);
  const place = (aps: Ssid['aps']) =>
    capPlaces({ site: resolve(estate(aps), two.site), roster: two.roster }).get(first.id)!.aps;
  expect([place(null), place({ [two.site.id]: [ap] })]).toEqual([2, 1]);
  const gone = (aps: Ssid['aps']) =>
    findingsOf({ ...two, estate: estate(aps) }).filter(({ code }) => code === 'wireless.no-ap');
  expect(gone({ [two.site.id]: [ap] })).toEqual([]);
  const before = { [two.site.id]: ['let go'], elsewhere: ['x'] };
  const found = gone(before);
  expect(found).toMatchObject([{ severity: 'error' }]);
  // Mended here alone, whatever others say of theirs meanwhile, and the tag goes with the APs.
  const tags = { [two.site.id]: 'deck', elsewhere: 'deck' };
  const tagged = { ...estate(before), ssids: estate(before).ssids.map((each) => ({ ...each, apTags: tags })) };
  const [finding] = findingsOf({ ...two, estate: tagged }).filter(({ code }) => code === 'wireless.no-ap');
  const mended = applied({ ...two.intent, estate: tagged }, ...finding!.mend!.operations).estate.ssids[0]!;
  expect([mended.aps, mended.apTags]).toEqual([{ elsewhere: ['x'] }, { elsewhere: 'deck' }]);
});

test('an old passphrase that is right for a while is told beside the new one, by reference, and restarts the radio', () => {
  const ap = roster.find(({ model }) => model.startsWith('AP'))!;
  const told = (change: Partial<Ssid>) =>
    compileSite(resolve(estateWith(change), site), roster).get(ap.id) as ApDocument;
  const former = { secret: 'before', until: '2026-12-31' };
  const document = told({ former });
  expect(document.ssids[0]!.former).toEqual({ passphrase: { secret: 'before' }, until: '2026-12-31' });
  expect(secretsOf(document)).toContain('before');
  expect(outagesOf(told({}), document)).toMatchObject([{ what: 'radio' }]);
  expect(told({ former, security: 'owe' }).ssids[0]).not.toHaveProperty('former');
});

test('what an SSID asks for of clients is told to APs, and nothing of what is as usual', () => {
  const ap = roster.find(({ model }) => model.startsWith('AP'))!;
  const told = (change: Partial<Ssid>) =>
    (compileSite(resolve(estateWith(change), site), roster).get(ap.id) as ApDocument).ssids[0];
  const plain = told({});
  for (const key of ['hidden', 'join', 'stay', 'most', 'steer', 'roam']) expect(plain).not.toHaveProperty(key);
  expect(told({ security: 'owe' })).not.toHaveProperty('passphrase');
  const said: Partial<Ssid> = { hidden: true, join: -75, stay: -80, most: 40, steer: true, roam: ['r', 'k'] };
  expect(told(said)).toMatchObject({ ...said, roam: ['k', 'r'] });
});

test('keys that lead to segments which are not here are found, and left out of a ring of this site alone', () => {
  const [own, other] = site.segments.filter(({ id }) => id !== site.managementId);
  const ring = [other!.name, 'Berth 7', 'Berth 8'];
  const said: Partial<Ssid> = { security: 'wpa2-psk', passphrase: null, ring, segment: own!.name, bands: ['5'] };
  const code = 'wireless.ring-nowhere';
  const here = estateWith({ ...said, reach: { kind: 'sites', siteIds: [site.id] } });
  expect(found(here, code)).toMatchObject([
    { severity: 'warning', message: expect.stringContaining('Berth 7 and 1 more') as string },
  ]);
  expect(mended(here, code)).toEqual([]);
  expect(found(estateWith({ ...said, reach: { kind: 'estate' } }), code)[0]!.mend).toBeNull();
  expect(found(estateWith({ ...said, ring: ['Berth 7'] }), code)).toMatchObject([{ severity: 'info' }]);
  expect(found(estateWith({ ...said, ring: [] }), code)).toEqual([]);
});

test('a ring is WPA2 below 6 GHz, without an old passphrase', () => {
  const before = { estate: intent.estate, sites: new Map([[site.id, site]]) };
  const add = (more: Partial<Ssid>): string[] => {
    const ssid = {
      ...first,
      id: second.id,
      name: 'Berths',
      security: 'wpa2-psk',
      passphrase: null,
      ring: [],
      bands: ['5'],
      ...more,
    };
    const { ssids, ...rest } = before.estate;
    const without = { ...before, estate: { ...rest, ssids: ssids.filter(({ id }) => id !== second.id) } };
    const result = apply(without, { type: 'ssid.add', ssid: ssid as Ssid }, () => undefined);
    return result.ok ? [] : result.flaws.map(({ code }) => code);
  };
  expect(add({})).toEqual([]);
  expect(add({ security: 'wpa2-wpa3-psk' })).toEqual(['ssid.ring-wpa3']);
  expect(add({ bands: ['5', '6'] })).toEqual(['ssid.ring-6ghz']);
  expect(add({ former: { secret: second.id, until: '2026-12-31' } })).toEqual(['ssid.ring-former']);
  expect(add({ byClass: true })).toEqual([]);
});
