import { expect, test } from 'vitest';
import {
  apply,
  remade,
  resolve,
  ssidAt,
  stepsTo,
  touchedSites,
  type Intent,
  type Operation,
  type SsidException,
} from '../intent';
import { compileSite } from '../rollout';
import { readTimes } from '../rules';
import { applied, sampleId, sampleSite } from '../testing';
import { AtSites, consequencesOf } from '.';

const { intent: one, site, roster, links } = sampleSite({ segments: 3, aps: 2 });
const [here, there] = [site.id, sampleId(9, 1)];
const other = { ...site, id: there, name: 'Petrel', code: 'y', segments: site.segments.slice(0, 2) };
const start: Intent = { estate: one.estate, sites: new Map([...one.sites, [there, other]]) };
const ssidId = sampleId(5, 0);
type Said = Readonly<Record<string, SsidException>>;
const edit = (from: Said, to: Said): Operation => ({
  type: 'ssid.set',
  ssidId,
  from: { exceptions: from },
  to: { exceptions: to },
});
const refused = (intent: Intent, operation: Operation): readonly string[] => {
  const result = apply(intent, operation, () => undefined);
  return result.ok ? [] : result.flaws.map(({ code, message }) => `${code}: ${message}`);
};
const ssid = (intent: Intent) => intent.estate.ssids.find(({ id }) => id === ssidId)!;
const own = { secret: sampleId(6, 90) };

test('what one site says otherwise counts there and nowhere else, in what its APs are told too', () => {
  const said = { passphrase: own, bands: ['5'], segment: 'Segment 2', most: 20 } as const;
  const next = applied(start, edit({}, { [here]: said }));
  const sentAt = (intent: Intent, siteId: string) => {
    const documents = compileSite(resolve(intent.estate, intent.sites.get(siteId)!), siteId === here ? roster : []);
    return [...documents.values()].flatMap((each) => (each.kind === 'ap' ? each.ssids : []));
  };
  expect(sentAt(next, here).find(({ id }) => id === ssidId)).toMatchObject({
    ...{ passphrase: own, bands: ['5'], vlan: 20, most: 20 },
  });
  expect(ssidAt(ssid(next), there)).toEqual(ssid(start));
  expect(touchedSites(start, next)).toEqual([here]);
  const off = applied(next, edit({ [here]: said }, { [here]: { off: true } }));
  expect(sentAt(off, here).some(({ id }) => id === ssidId)).toBe(false);
  // The other way round: switched off for all but for this site.
  const onlyHere = applied(
    start,
    { type: 'ssid.set', ssidId, from: { off: null }, to: { off: true } },
    edit({}, { [here]: { off: false } }),
  );
  expect(sentAt(onlyHere, here).some(({ id }) => id === ssidId)).toBe(true);
  expect(resolve(onlyHere.estate, other).ssids.some(({ id }) => id === ssidId)).toBe(false);
});

test('two people say something of two sites, and neither undoes what the other said', () => {
  const [mine, theirs] = [edit({}, { [here]: { most: 10 } }), edit({}, { [there]: { most: 30 } })];
  const both = applied(start, mine, theirs);
  expect(ssid(both).exceptions).toEqual({ [here]: { most: 10 }, [there]: { most: 30 } });
  const back = apply(both, mine, () => undefined);
  expect(back.ok).toBe(false); // it saw nothing said there
  const first = apply(start, mine, () => undefined);
  if (!first.ok) throw new Error();
  // Taken back after the other one came: the other's stays.
  expect(ssid(applied(both, first.inverse)).exceptions).toEqual({ [there]: { most: 30 } });
  // Made again on what is there now.
  const again = remade(edit({}, { [here]: { most: 11 } }), both)!;
  expect(ssid(applied(both, again)).exceptions).toEqual({ [here]: { most: 11 }, [there]: { most: 30 } });
  const gone = remade(edit({ [here]: { most: 5 } }, {}), both)!;
  expect(ssid(applied(both, gone)).exceptions).toEqual({ [there]: { most: 30 } });
  const aps = (from: object, to: object) =>
    ({ type: 'ssid.set', ssidId, from: { aps: from }, to: { aps: to } }) as Operation;
  expect(ssid(applied(start, aps({}, { [here]: ['a'] }), aps({}, { [there]: ['b'] }))).aps).toEqual({
    [here]: ['a'],
    [there]: ['b'],
  });
});

test('the way back leads from any exceptions to any others', () => {
  const states = [
    start,
    ...[{ [here]: { most: 10 } }, { [here]: { most: 9, hidden: true }, [there]: { hours: null } }].map((said) =>
      applied(start, edit({}, said)),
    ),
  ];
  for (const from of states)
    for (const to of states) {
      const steps = stepsTo(from, to, ['estate'], () => undefined);
      if (!steps.ok) throw new Error(JSON.stringify(steps.flaws));
      expect(steps.intent.estate).toEqual(to.estate);
    }
});

test('what does not hold at a site is refused with its name', () => {
  const at = (said: SsidException) => refused(start, edit({}, { [there]: said }));
  expect(at({ bands: [] })).toEqual(['ssid.bands-none: At Petrel: Choose at least one band.']);
  expect(at({ join: -80, stay: -70 })[0]).toMatch(/^ssid\.stay-above: At Petrel: /);
  expect(at({ hours: sampleId(7, 7) })[0]).toMatch(/^ssid\.hours-unknown: At Petrel/);
  expect(at({ caps: { client: { down: 0 } } })[0]).toMatch(/: At Petrel: A cap of 0/);
  expect(at({})).toEqual([]);
  const open = applied(start, {
    type: 'ssid.set',
    ssidId,
    from: { security: 'wpa2-wpa3-psk' },
    to: { security: 'owe' },
  });
  expect(refused(open, edit({}, { [there]: { passphrase: own } }))[0]).toMatch(/^ssid\.passphrase-asked: At Petrel/);
});

test('a finding is mended where it was said: of one site, or of all', () => {
  const hours = {
    id: sampleId(7, 1),
    name: 'All day',
    times: readTimes('00:00-24:00')!,
  };
  const withHours = applied(start, { type: 'hours.add', hours });
  const mended = (intent: Intent): Intent => {
    const { findings } = consequencesOf({ estate: intent.estate, site, roster, links, told: {} });
    return applied(intent, ...findings.find(({ code }) => code === 'wireless.hours-always')!.mend!.operations);
  };
  const atOne = mended(
    applied(withHours, edit({}, { [here]: { hours: hours.id, most: 10 }, [there]: { hours: hours.id } })),
  );
  expect(ssid(atOne).exceptions).toEqual({ [here]: { hours: null, most: 10 }, [there]: { hours: hours.id } });
  const shared = { type: 'ssid.set', ssidId, from: { hours: null }, to: { hours: hours.id } } as const;
  expect(ssid(mended(applied(withHours, shared))).hours).toBeNull();
});

test('over all sites it is told where something is otherwise, and a segment is looked for under the name that counts there', () => {
  const at = (intent: Intent) => {
    const rows = new AtSites(intent, roster, new Map()).of('ssid', ssidId)!;
    return Object.fromEntries(rows.map(({ site: name, lacks, otherwise, aps }) => [name, { lacks, otherwise, aps }]));
  };
  const said = applied(start, edit({}, { [there]: { segment: 'Segment 2' }, [here]: { off: true, bands: ['5'] } }));
  expect(at(said)).toEqual({
    Petrel: { lacks: ['segment Segment 2'], otherwise: ['segment'], aps: 0 },
    Sample: { lacks: [], otherwise: ['off', 'bands'], aps: 0 },
  });
  expect(new AtSites(said, roster, new Map()).counts().find(({ id }) => id === ssidId)).toMatchObject({ lacking: 1 });
  expect(at(start)['Sample']).toMatchObject({ aps: 2, otherwise: [] });
});
