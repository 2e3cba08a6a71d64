import { expect, test } from 'vitest';
import { readSheet, type HardwareSheet } from '../hardware';
import { resolve } from '../intent';
import { sampleSite } from '../testing';
import { leaveBehind, replacementLosses } from '.';

const sample = sampleSite({ segments: 3, aps: 3 });
const site = resolve(sample.intent.estate, sample.site);
const named = (name: string) => sample.roster.find((device) => device.name === name)!;
const left = (name: string) => leaveBehind(site, sample.roster, sample.links, named(name));

test('without its only gateway a site has segments without one, and devices without a way', () => {
  const found = left('x-gw-01');
  expect(found.map((each) => each.code)).toEqual(['segments', 'devices', 'ports']);
  expect(found[0]!.message).toBe(
    '3 segments would have no gateway: Management, Segment 1, Segment 2. Nothing would route or give addresses at Sample.',
  );
  expect(found[1]!.message).toBe(
    '4 devices would lose their only way to the controller: x-sw-01, x-ap-01, x-ap-02, x-ap-03.',
  );
  expect(found[2]!.message).toBe('1 port would carry segments to nobody: x-sw-01 port 25 (3 segments).');
});

test('an AP leaves a port without a peer, and the last one SSIDs that nobody sends', () => {
  expect(left('x-ap-02').map((each) => each.code)).toEqual(['ports']);
  const roster = sample.roster.filter((device) => !['x-ap-02', 'x-ap-03'].includes(device.name));
  const found = leaveBehind(site, roster, sample.links, {
    ...named('x-ap-01'),
    address: { address: '10.1.1.9', length: 24, gateway: '10.1.1.1', dns: [] },
  });
  expect(found.map((each) => each.code)).toEqual(['ports', 'ssids', 'address']);
});

test('a device on no cable would not be missed; where another way is left nobody is cut off', () => {
  const lone = { ...named('x-ap-01'), id: 'lone', name: 'lone' };
  expect(leaveBehind(site, [...sample.roster, lone], sample.links, lone)[0]!.code).toBe('nothing');
  const second = { ...named('x-gw-01'), id: 'gw2', name: 'x-gw-02' };
  const links = [
    ...sample.links,
    { a: { deviceId: 'gw2', port: '1' }, b: { deviceId: named('x-sw-01').id, port: '26' } },
  ];
  const codes = leaveBehind(site, [...sample.roster, second], links, named('x-gw-01')).map((each) => each.code);
  expect(codes).toEqual(['ports']);
});

test('a box of the same model loses nothing, one of another kind is refused', () => {
  const old = named('x-sw-01');
  expect(replacementLosses(old, { model: 'SW-24P' }, undefined, sample.links)).toEqual([]);
  expect(replacementLosses(old, { model: 'AP-6' }, undefined, [])).toMatchObject([
    { severity: 'refused', message: 'An access point cannot take the place of a switch.' },
  ]);
});

test('a smaller switch loses ports, those in use by name, and power', () => {
  const old = named('x-sw-01');
  const losses = replacementLosses(old, { model: 'SW-8P' }, site.ports[old.id], sample.links);
  expect(losses.map((loss) => [loss.code, loss.message])).toEqual([
    [
      'ports',
      'It has 10 ports, not 26: 11–26 would be missing. In use: 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25; what is set there would be lost.',
    ],
    ['poe', 'It gives less power: 8 PoE ports, not 24. What draws power from it may stay dark.'],
    [
      'holds',
      'It holds less: 64 VLANs, not 512; 256 clients known by MAC address, not 2048; 4 groups of ports, not 8; 256 rules a list, not 1024.',
    ],
  ]);
});

test('an AP without 6 GHz says so', () => {
  const [band, holds, ...more] = replacementLosses(named('x-ap-01'), { model: 'AP-6' }, undefined, []);
  expect(more).toEqual([]);
  expect(holds!.code).toBe('holds');
  expect([band]).toMatchObject([
    { code: 'band', message: 'It has no 6 GHz radio: SSIDs there are not sent any more.' },
  ]);
});

const SHEET = {
  format: 'iron-lattice.hardware/1',
  model: 'SW-5 mini',
  title: 'Switch SW-5 mini',
  kind: 'switch',
  ports: [{ name: '1', role: 'edge', speed: 100 }],
  radios: [],
  ssidsPerRadio: 0,
};
test('a supplied hardware sheet is checked, and serves in place of a shipped one', () => {
  const read = readSheet(SHEET);
  expect(read.ok).toBe(true);
  const box = { model: 'SW-5 mini', sheet: SHEET as HardwareSheet };
  expect(replacementLosses(named('x-sw-01'), box, undefined, []).map((loss) => loss.code)).toEqual([
    'ports',
    'poe',
    'speed',
  ]);
});
test.each([
  [{ model: 'GW-4' }, 'sheet.shipped'],
  [{ kind: 'gateway' }, 'sheet.no-wan'],
  [{ kind: 'ap' }, 'sheet.no-radio'],
  [{ ports: [] }, 'sheet.malformed'],
  [{ colour: 'red' }, 'sheet.malformed'],
  [{ format: 'other' }, 'sheet.malformed'],
])('a sheet with %j is refused: %s', (change, code) => {
  const read = readSheet({ ...SHEET, ...change });
  expect(read.ok ? null : read.flaws[0]!.code).toBe(code);
});
