import { expect, test } from 'vitest';
import { allowedBlock } from '../regulation';
import { blockCosts, cheapest, measuredLosses, scanOrder, strangersOn, widthGains, type HeardAir } from '.';

const network = (channel: number, centre: number, width: number, n = 1) => ({
  ...{ bssid: `06:00:00:00:00:0${n}`, ssid: 'Kiosk', band: '5' as const, channel, centre, width },
  ...{ signal: -60, security: 'WPA2' },
});
const busy = (...shares: number[]) =>
  shares.map((share, i) => ({ band: '5' as const, channel: 36 + 4 * i, busy: share, noise: -94 }));
const nobody = () => false;

test('one that is heard over several parts keeps them busy together; what is left is somebody else’s', () => {
  const block = allowedBlock('IE', '5', 36, 80)!;
  const air: HeardAir = { networks: [network(36, 42, 80), network(36, 36, 20, 2)], channels: busy(0.6, 0.2, 0.2, 0.2) };
  const others = strangersOn('5', block, air, nobody);
  expect(others).toHaveLength(2);
  expect(others[0]).toEqual({ parts: [0, 1, 2, 3], share: 0.2 });
  expect(others[1]!.parts).toEqual([0]);
  expect(others[1]!.share).toBeCloseTo(0.5);
  // What only ours send is not reckoned as outside use.
  expect(strangersOn('5', block, air, () => true)).toEqual([]);
});

test('every block that the law allows is costed, and the cheapest that may be taken is found', () => {
  const air: HeardAir = { networks: [network(36, 38, 40)], channels: busy(0.5, 0.5, 0, 0) };
  const channels = new Set([36, 40, 44, 48]);
  const limits = {
    country: 'IE',
    band: '5' as const,
    most: 80 as const,
    streams: 2,
    channels,
    radar: false,
    widest: 80 as const,
  };
  const costs = blockCosts(air, limits, nobody);
  const at = (width: number, centre: number) =>
    costs.find((each) => each.width === width && each.block.centre === centre)!;
  // Who wants half of the air gets less beside somebody whose lots of frames last longer.
  expect(at(40, 38).cost).toBeCloseTo(0.35, 1);
  expect(at(40, 46).cost).toBe(0);
  expect(at(20, 100).free).toBe(false);
  expect(cheapest(costs)).toMatchObject({ width: 80, block: { centre: 42 } });
  // Where 80 MHz is not wanted, the free half.
  expect(cheapest(blockCosts(air, { ...limits, widest: 40 }, nobody))).toMatchObject({ width: 40, channel: 44 });
  expect(cheapest(costs.map((each) => ({ ...each, free: false })))).toBeNull();
});

test('path losses between APs are what each heard of the other, on the average', () => {
  const heard = (deviceId: string, bssid: string, signal: number) => ({
    ...{ deviceId, name: deviceId, at: '2026-11-28T00:00:00Z', channels: [] },
    networks: [{ ...network(36, 38, 40), bssid, signal }],
  });
  const senders = new Map([
    ['b', { deviceId: 'two', power: 20 }],
    ['a', { deviceId: 'one', power: 23 }],
  ]);
  const losses = measuredLosses([heard('one', 'b', -60), heard('two', 'a', -55), heard('two', 'x', -40)], (bssid) =>
    senders.get(bssid),
  );
  expect(losses).toEqual([{ band: '5', a: 'one', b: 'two', loss: 79 }]);
});

test('APs that serve the same place do not scan together, and of those of which nothing is known only one does', () => {
  const loss = (a: string, b: string) => (`${a}${b}` === 'ab' || `${a}${b}` === 'ba' ? 70 : 110);
  expect(scanOrder(['a', 'b', 'c'], loss, () => true)).toEqual([['a', 'c'], ['b']]);
  expect(
    scanOrder(
      ['a', 'b', 'c'],
      () => undefined,
      () => false,
    ),
  ).toEqual([['a'], ['b'], ['c']]);
});

test('a wider channel brings most to who is near and least, or nothing, to who is far', () => {
  const asked = {
    country: 'IE',
    band: '5' as const,
    channel: 36,
    now: 40 as const,
    most: 80 as const,
    streams: 2,
    clients: [{ signal: -79, streams: 1 }],
  };
  const near = [{ name: 'ap-2', centre: 46, width: 40 }];
  const gains = widthGains({ ...asked, near }, { networks: [], channels: [] }, nobody);
  const at = (width: number) => gains.find((each) => each.width === width)!;
  const ratio = (i: number) => at(80).speeds[i]! / at(40).speeds[i]!;
  expect(ratio(0)).toBeGreaterThan(1.5);
  expect(ratio(0)).toBeLessThan(2.1);
  expect(ratio(3)).toBeLessThan(1.2);
  expect(at(40).ours).toEqual([]);
  expect(at(80).ours).toEqual(['ap-2']);
});
