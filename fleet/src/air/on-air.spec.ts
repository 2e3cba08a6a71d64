import type { ApDocument, RadioDocument } from '@iron-lattice/core/document';
import { shareToAll, shareToEach } from '@iron-lattice/core/radio';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { AirFile, Stranger } from './air-file';
import type { AirAbility, JoinedSsid } from './ability';
import { OnAir } from './on-air';

const hour = '2026-11-28T12:00:00Z';
beforeEach(() => vi.useFakeTimers({ now: new Date(hour) }));
afterEach(() => vi.useRealTimers());

const passphrase = { secret: 's' };
const ssid = {
  id: 'a',
  name: 'Deck',
  security: 'wpa3-sae' as const,
  passphrase,
  bands: ['2.4', '5'] as const,
  vlan: 10,
};
const documentOf = (serial: string, radios?: readonly RadioDocument[], ssids = [ssid]): ApDocument => ({
  ...{ format: 'iron-lattice.document/1', kind: 'ap', management: { vlan: 1 }, ports: [], ssids },
  device: { name: serial, serial, model: 'AP-6' },
  site: { name: 'Quay', country: 'IE', timeZone: 'UTC' },
  ...(radios ? { radios } : {}),
});
const at = (channel: number, width = 40, centre = channel + 2): RadioDocument => ({
  band: '5',
  at: { channel, width, centre },
  power: 20,
});
const radar: RadioDocument = {
  ...at(100),
  radar: { listen: 60, rest: 1800, refuge: { channel: 36, width: 40, centre: 38 } },
};

/** How somebody who knows the passphrase joins what is sent on bands, as the SSID is otherwise said. */
const joinAt = (
  air: OnAir,
  mac: string,
  able: Omit<AirAbility, 'passphrase'>,
  bands: JoinedSsid['bands'],
  said: Partial<JoinedSsid> = {},
) => air.join('one', mac, { passphrase: 'known', ...able }, { security: 'wpa3-sae', ...said, bands }, said.join);

/** Clients that an AP has of the one network there is. */
const onDeck = (count: number, rate = 286) =>
  Array.from({ length: count }, () => ({ ssid: 'Deck', band: '5' as const, rate }));

/** Two APs 17 m apart, and what changed by itself. */
function setUp(file: AirFile = {}, first?: readonly RadioDocument[], second?: readonly RadioDocument[]) {
  const changed: string[] = [];
  const air = new OnAir(file, (serial) => changed.push(serial));
  const box = (serial: string, n: number, radios?: readonly RadioDocument[]) => ({
    device: { serial, model: 'AP-6', mac: `02:5a:10:00:00:0${n}` },
    document: documentOf(serial, radios),
    powered: true,
  });
  const boxes = [box('one', 1, first), box('two', 2, second)];
  for (const each of boxes) air.addAp(each, 'quay');
  for (const each of boxes) air.run(each);
  const on5 = (serial = 'one') => air.reportsOf(serial).find(({ band }) => band === '5')!;
  return { air, boxes, changed, on5 };
}

test('a radio of which nothing was said takes what is quiet of what is usual', () => {
  const noise: Stranger = {
    ...{ bssid: '06:00:00:00:00:01', ssid: 'Kiosk', security: 'WPA2', band: '5', channel: 36, centre: 38, width: 40 },
    ...{ power: 23, near: 'one', at: [3, 3, 2], busy: 0.5 },
  };
  const { air, on5 } = setUp({ strangers: [noise] });
  expect(on5()).toMatchObject({ state: 'on', width: 40, power: 23, centre: 46 });
  expect([1, 6, 11]).toContain(air.reportsOf('one').find(({ band }) => band === '2.4')!.channel);
  expect(on5().sends).toMatchObject([{ ssid: 'Deck', bssid: expect.stringMatching(/^[0-9a-f:]{17}$/) as string }]);
});

test('on a channel shared with radar it listens for as long as it is told to, and only then takes clients', () => {
  const { air, on5, changed } = setUp({}, [radar]);
  air.addClient('0e:00:00:00:00:01', 'one');
  const joins = () => joinAt(air, '0e:00:00:00:00:01', { bands: ['5'] }, ['5']);
  expect(on5()).toMatchObject({ state: 'listening', channel: 100, until: Date.parse(hour) + 60_000 });
  expect(joins()).toBe('radar');
  vi.advanceTimersByTime(59_000);
  expect(on5().state).toBe('listening');
  vi.advanceTimersByTime(1000);
  expect(on5()).toMatchObject({ state: 'on', channel: 100 });
  expect(changed).toEqual(['one']);
  expect(joins()).toMatchObject({ band: '5', width: 40 });
});

test('when radar is heard it leaves at once, its channel rests for half an hour, and then it listens anew', () => {
  const { air, on5 } = setUp({}, [radar]);
  vi.advanceTimersByTime(60_000);
  expect(air.radar('two')).toBe(0);
  expect(air.radar('one')).toBe(1);
  expect(on5()).toMatchObject({ state: 'on', channel: 36, left: { channel: 100, until: Date.now() + 1_800_000 } });
  vi.advanceTimersByTime(1_799_000);
  expect(on5().channel).toBe(36);
  vi.advanceTimersByTime(1000);
  expect(on5()).toMatchObject({ state: 'listening', channel: 100 });
  expect(on5().left).toBeUndefined();
  // Without a place to go it is silent until its channel has rested.
  const { air: other, on5: its } = setUp({}, [{ ...radar, radar: { listen: 60, rest: 1800 } }]);
  other.radar('one');
  expect(its()).toMatchObject({ state: 'silent', left: { channel: 100 } });
});

test('another power changes without a restart, another channel starts it anew', () => {
  const { air, boxes, on5 } = setUp({}, [radar]);
  vi.advanceTimersByTime(60_000);
  air.run({ ...boxes[0]!, document: documentOf('one', [{ ...radar, power: 11 }]) });
  expect(on5()).toMatchObject({ state: 'on', power: 11 });
  air.run({ ...boxes[0]!, document: documentOf('one', [at(44)]) });
  expect(on5()).toMatchObject({ state: 'on', channel: 44 });
  air.run({ ...boxes[0]!, document: documentOf('one', [{ band: '5', off: true }]) });
  expect(on5()).toEqual({ band: '5', state: 'off' });
  air.run({ ...boxes[0]!, document: documentOf('one', [at(44)], []) });
  expect(on5()).toEqual({ band: '5', state: 'idle' });
});

test('a scan hears others and strangers on their channels, how busy each is, and leaves its clients meanwhile', async () => {
  const noise: Stranger = {
    ...{ bssid: '06:00:00:00:00:01', ssid: 'Kiosk', security: 'WPA2', band: '5', channel: 52, centre: 58, width: 80 },
    ...{ power: 23, near: 'two', at: [3, 3, 2], busy: 0.4 },
  };
  const { air } = setUp({ strangers: [noise] }, [at(36)], [at(44)]);
  air.has('two', onDeck(4)); // they keep in touch
  air.addClient('0e:00:00:00:00:01', 'one');
  const joins = () => joinAt(air, '0e:00:00:00:00:01', { bands: ['5'] }, ['5']);
  const steps: number[] = [];
  const scan = air.scan('one', ['5'], (done) => steps.push(done) > 0);
  expect(joins()).toBe('off');
  expect(await air.scan('one', ['5'], () => true)).toBeNull(); // it is at it already
  await vi.runAllTimersAsync();
  const heard = (await scan)!;
  expect(joins()).toMatchObject({ band: '5' });
  expect(steps.length).toBeGreaterThan(20);
  expect(heard.networks.map(({ ssid: name, channel }) => [name, channel])).toEqual([
    ['Deck', 44],
    ['Kiosk', 52],
  ]);
  const busy = (channel: number) => heard.channels.find((each) => each.channel === channel)!.busy;
  expect([busy(36), busy(60)]).toEqual([0, 0.4]);
  expect(busy(44)).toBeGreaterThan(0);
  // Cancelled, it gives nothing and its clients have it back.
  const left = air.scan('one', ['5'], (done) => done < 3);
  await vi.runAllTimersAsync();
  expect(await left).toBeNull();
  expect(joins()).toMatchObject({ band: '5' });
});

test('a client is served by the band that is fastest where it stands, by what both can', () => {
  const { air, boxes } = setUp({ places: { near: [2, 2, 1], far: [95, 0, 1] } }, [at(36)]);
  for (const mac of ['near', 'far']) air.addClient(mac, 'one');
  expect(joinAt(air, 'near', { bands: ['2.4', '5'], phy: 'HE', streams: 2, width: 80 }, ['2.4', '5'])).toMatchObject({
    ...{ band: '5', width: 40, streams: 2 },
  });
  expect(joinAt(air, 'near', { bands: ['2.4'], phy: 'HE' }, ['2.4', '5'])).toMatchObject({ band: '2.4' });
  const far = joinAt(air, 'far', { bands: ['2.4', '5'], phy: 'HE', streams: 2 }, ['2.4', '5']);
  expect(far).toMatchObject({ band: '2.4' }); // at 5 GHz too little is left of the way
  expect(joinAt(air, 'near', { bands: ['6'] }, ['2.4', '5'])).toBe('band');
  air.run({ ...boxes[0]!, powered: false });
  expect(joinAt(air, 'near', {}, ['2.4', '5'])).toBe('off');
});

test('who cannot do what an SSID asks for, or looks for another, does not join; at 6 GHz there is nothing old', () => {
  const { air } = setUp();
  air.addClient('near', 'one');
  const joins = (said: Partial<JoinedSsid>, able: AirAbility = {}, bands: JoinedSsid['bands'] = ['2.4', '5']) =>
    joinAt(air, 'near', { bands: ['2.4', '5', '6'], phy: 'HE', ...able }, bands, said);
  const old = { old: true };
  expect(joins({}, old)).toBe('security');
  expect(joins({ security: 'wpa2-wpa3-psk' }, old)).toMatchObject({ band: '5' });
  expect(joins({ security: 'wpa2-wpa3-psk' }, old, ['2.4'])).toMatchObject({ band: '2.4' });
  expect(joins({ security: 'open' })).toBe('security');
  const asksNothing = { passphrase: undefined };
  expect(joins({ security: 'open' }, asksNothing as AirAbility)).toMatchObject({ band: '5' });
  expect(joins({ security: 'owe' }, asksNothing as AirAbility)).toMatchObject({ band: '5' });
  expect(joins({ security: 'owe' }, { ...asksNothing, ...old })).toBe('security');
  expect(joins({ roam: ['r'] }, { phy: 'HT' })).toBe('security');
  expect(joins({ roam: ['k', 'v'] }, { phy: 'HT' })).toMatchObject({ width: 40 });
});

test('an SSID has nobody below its signal, and steers who likes 2.4 GHz to the wider band', () => {
  const { air } = setUp();
  air.addClient('near', 'one');
  const joins = (said: Partial<JoinedSsid>) =>
    joinAt(air, 'near', { bands: ['2.4', '5'], phy: 'HE', likes: '2.4' }, ['2.4', '5'], said);
  const { band, signal } = joins({}) as { band: string; signal: number };
  expect(band).toBe('2.4');
  expect(joins({ join: signal })).toMatchObject({ band: '2.4' });
  expect(joins({ join: signal + 1 })).toBe('low');
  expect(joins({ steer: true })).toMatchObject({ band: '5' });
});

test('a hidden name is heard as none', async () => {
  const { air, boxes } = setUp({ hurry: 0.001 });
  const [, two] = boxes;
  air.run({ ...two!, document: documentOf('two', undefined, [{ ...ssid, hidden: true } as typeof ssid]) });
  Object.assign(two!, { document: documentOf('two', undefined, [{ ...ssid, hidden: true } as typeof ssid]) });
  vi.useRealTimers();
  const { networks } = (await air.scan('one', ['2.4'], () => true))!;
  expect(networks.map((each) => each.ssid)).toEqual(['']);
  expect(air.reportsOf('two')[0]!.sends).toMatchObject([{ ssid: 'Deck' }]);
});

test('frames to all take what the AP was told to make of them: of its own air, and of what others wait for', () => {
  const { air, boxes, on5 } = setUp({}, [at(36)], [at(36)]);
  air.has('one', onDeck(3));
  air.has('two', onDeck(5));
  const told = (multicast?: 'each' | 'none') => {
    air.run({ ...boxes[0]!, document: boxes[0]!.document });
    const [first] = boxes;
    const ssids = [{ ...ssid, ...(multicast ? { multicast } : {}) }];
    first!.document = documentOf('one', [at(36)], ssids);
    air.run(first!);
    const [sends] = on5().sends!;
    return { ...sends!.toAll!, waited: on5('two').busy! };
  };
  // Two always and a half for each of the eight that the place has.
  const [all, each, none] = [told(), told('each'), told('none')];
  expect([all, each, none].map(({ perSecond }) => perSecond)).toEqual([6, 6, 6]);
  expect(all.share).toBeCloseTo(shareToAll({ perSecond: 6, octets: 180 }, 6, '5'), 4);
  expect(each.share).toBeCloseTo(shareToEach({ perSecond: 6, octets: 180 }, [286, 286, 286], '5'), 4);
  expect(none.share).toBe(0);
  expect(all.waited).toBeGreaterThanOrEqual(none.waited);
  // Of one whose clients have gone less comes.
  air.has('two', []);
  expect(told().perSecond).toBe(3.5);
});
