import { describe, expect, test } from 'vitest';
import { appliedWith, refusedWith, sampleId, samplePair } from '../../testing';
import { apply, ownAddresses, resolve, stepsBetween, usualPair, type Operation, type RosterDevice } from '..';

const sample = samplePair();
const { site, roster, intent, first, second } = sample;
const siteId = site.id;
const said = (more: object = {}, from: Operation | object | null = null): Operation =>
  ({ ...sample.made, from, to: { ...sample.made.to, ...more } }) as Operation;
const at = (of = intent) => of.sites.get(siteId)!;

describe('a pair of gateways', () => {
  test('is said whole, taken back, and found again by the way from one state to another', () => {
    const made = appliedWith(roster, intent, said({ tracks: { first: ['wan1', 'wan1'], second: [] } }));
    expect(at(made).pair).toMatchObject({ firstId: first.id, secondId: second.id, tracks: { first: ['wan1'] } });
    const outcome = apply(made, { ...sample.made, from: at(made).pair!, to: null }, (id) =>
      roster.find((one) => one.id === id),
    );
    expect(outcome.ok && at(outcome.intent).pair).toBeUndefined();
    expect(stepsBetween(at(), at(made))).toEqual([{ ...sample.made, to: at(made).pair }]);
    expect(stepsBetween(at(made), at())).toEqual([{ ...sample.made, from: at(made).pair, to: null }]);
  });

  test.each([
    ['the same gateway twice', { secondId: first.id }, /cannot stand in for itself/],
    ['a switch', { secondId: roster.find(({ model }) => model.startsWith('SW'))!.id }, /gateways of Sample/],
    ['one that is gone', { secondId: sampleId(2, 9) }, /gateways of Sample/],
    ['a port that is no uplink', { tracks: { first: ['3'], second: [] } }, /3 of x-gw-01 is no uplink/],
    ['a number that no virtual router has', { router: 256 }, /from 1 to 255/],
    ['words too rare', { advert: 4096 }, /0.1 to 10 seconds/],
  ])('is refused with %s', (_what, more, words) => {
    expect(refusedWith(roster, intent, said(more))).toMatch(words);
  });

  test('is refused where somebody said something else meanwhile, and an uplink that it tracks stays one', () => {
    const made = appliedWith(roster, intent, said({ tracks: { first: ['wan2'], second: [] } }));
    expect(refusedWith(roster, made, said())).toMatch(/Somebody changed the pair/);
    const off: Operation = {
      type: 'uplink.set',
      siteId,
      deviceId: first.id,
      port: 'wan2',
      from: null,
      to: { on: false },
    };
    expect(refusedWith(roster, made, off)).toMatch(/pair of gateways tracks wan2/);
    expect(appliedWith(roster, made, { ...off, deviceId: second.id })).toBeDefined();
  });
});

describe('own addresses of both', () => {
  const own = (devices: readonly RosterDevice[] = roster, more: object = {}) => {
    const { management } = resolve(intent.estate, site);
    return ownAddresses({ first, second }, { ...management, ...more }, devices);
  };
  const management = resolve(intent.estate, site).management;
  const fixed = (device: RosterDevice, address: string): RosterDevice => ({
    ...device,
    address: { address, length: 24, gateway: management.gateway, dns: [] },
  });

  test('are the lowest that nobody has and nothing gives out', () => {
    expect(own()).toEqual({ first: '10.1.1.2/24', second: '10.1.1.3/24' });
    const ap = roster.at(-1)!;
    expect(own([...roster.slice(0, -1), fixed(ap, '10.1.1.2')])).toEqual({
      first: '10.1.1.3/24',
      second: '10.1.1.4/24',
    });
    const addresses = { ...management.addresses!, first: '10.1.1.2', last: '10.1.1.252' };
    expect(own(roster, { addresses })).toEqual({ first: '10.1.1.253/24', second: '10.1.1.254/24' });
  });

  test('are those that were fixed, and none where there is no room', () => {
    const [gw, ...others] = roster;
    expect(own([fixed(gw!, '10.1.1.9'), ...others])).toEqual({ first: '10.1.1.9/24', second: '10.1.1.2/24' });
    const addresses = { ...management.addresses!, first: '10.1.1.2', last: '10.1.1.253' };
    expect(own(roster, { addresses })).toBeNull();
  });
});

test('what nobody said otherwise: a second between words, the first routes again, leases are handed over', () => {
  expect(usualPair('a', 'b')).toMatchObject({ advert: 100, back: true, leases: true, when: 'all' });
});
