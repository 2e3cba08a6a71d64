import { expect, test } from 'vitest';
import { sampleSite } from '../testing';
import { countryByName } from '../regulation';
import { SITE_SAMPLE, checkSiteList, copySite, foundSite } from '.';

const known = [{ name: 'Brinmouth', code: 'bm' }];
const check = (...rows: string[]) =>
  checkSiteList(
    rows.map((row) => row.split(',')),
    known,
    countryByName,
  );

test('a list of sites is taken as the sample file shows it; short forms are derived and free', () => {
  const { rows } = checkSiteList(SITE_SAMPLE, known, countryByName);
  expect(rows.map((row) => row.good)).toEqual([
    {
      name: 'Harrow Point',
      code: 'hp',
      country: 'IE',
      timeZone: 'Europe/Dublin',
      address: '2 Slipway, Harrow Point',
      tags: ['terminal', 'north'],
    },
    { name: 'Saltmarsh Pier', code: 'sp', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: ['pier'] },
  ]);
  const codes = check('name,country,time zone', 'Big Mole,IE,UTC', 'Blue Mole,IE,UTC').rows.map(
    (row) => row.good?.code,
  );
  expect(new Set(['bm', ...codes]).size).toBe(3);
});

test('each row says what is wrong with it', () => {
  const { rows } = check(
    'name,country,time zone,code',
    ',IE,UTC,xx',
    'brinmouth,IE,UTC,yy',
    'Mole,Atlantis,UTC,zz',
    'Mole,IE,Mars/Olympus,mo',
    'Slip,IE,UTC,bm',
    'Quay,IE,UTC,a very long one',
    'Pier,IE,UTC,pp',
    'Pier,IE,UTC,pp',
  );
  expect(rows.map((row) => row.flaws.map((flaw) => flaw.code))).toEqual([
    ['site.name-empty'],
    ['site.name-taken'],
    ['site.country'],
    ['site.name-taken', 'site.time-zone'],
    ['site.code-taken'],
    ['site.code'],
    [],
    ['site.name-taken', 'site.code-taken'],
  ]);
});

test('a copied site has the other’s segments in address space of its own, ranges and gateways at their places', () => {
  const { intent, site } = sampleSite({ segments: 5, aps: 0 });
  const wish = { name: 'Copy', code: 'cp', country: 'IE', timeZone: 'UTC', address: '', tags: [] };
  const founded = foundSite(intent, wish, { site: 'S', management: 'M' });
  if (!founded.ok) throw new Error('not founded');
  let next = 0;
  const bands = { '2.4': { channels: [1, 5, 9, 13] } };
  const part = copySite(intent, founded.part, { ...site, bands }, () => `new-${next++}`)!;
  expect(part.bands).toEqual(bands);
  expect(part.segments.map(({ name, vlan, subnet }) => [name, vlan, subnet])).toEqual([
    ['Management', 1, '10.2.1.0/24'],
    ['Segment 1', 10, '10.2.10.0/24'],
    ['Segment 2', 20, '10.2.20.0/24'],
    ['Segment 3', 30, '10.2.30.0/24'],
    ['Segment 4', 40, '10.2.40.0/24'],
  ]);
  expect(part.segments[2]).toMatchObject({
    id: 'new-1',
    gateway: '10.2.20.1',
    addresses: { first: '10.2.20.20', last: '10.2.20.254', leaseSeconds: 28_800 },
  });
});
