import { uplinkSetting, type RosterDevice, type SitePart } from '@iron-lattice/core/intent';
import type { SitePathsView } from '@iron-lattice/core/paths';
import { readMishap } from './mishap-text';
import { carriedWords, countedWords, fareWords, gatewayRows, sixWords } from './path-rows';
import { entryTyped, textOf, type UplinkText } from './uplink-text';
import { pointOf } from './watch-curve';

const gateway: RosterDevice = {
  id: 'g',
  siteId: 's',
  name: 'aq-gw-01',
  serial: '1',
  model: 'GW-4',
  mac: '02:00:00:00:00:01',
};
const site = {
  uplinks: { g: { wan1: { title: 'Tidewire', weight: 2 }, wan2: { role: 'shares' as const } } },
} as unknown as SitePart;
const view: SitePathsView = {
  changes: [],
  gateways: [
    {
      ...{ deviceId: 'g', at: '', state: 'whole' as const, counted: '' },
      uplinks: [
        {
          port: 'wan1',
          state: 'good',
          since: 5,
          used: true,
          weight: 2,
          address: '203.0.113.9',
          delay: 9,
          jitter: 1,
          sessions: 660,
        },
        { port: 'wan2', state: 'good', since: 5, used: true, weight: 1, address: '198.51.100.9', sessions: 340 },
      ],
    },
  ],
};
const rowsOf = (more: Partial<SitePathsView['gateways'][number]> = {}) =>
  gatewayRows(site, [gateway], { ...view, gateways: [{ ...view.gateways[0]!, ...more }] })[0]!;

describe('uplinks on the screen', () => {
  it('have the shares that are asked for beside those that came of it', () => {
    const { uplinks, fits, spare } = rowsOf();
    expect(uplinks.map(({ share }) => Math.round(share * 100))).toEqual([67, 33]);
    expect([fits, spare.map(({ name }) => name)]).toEqual([true, ['4']]);
    expect(countedWords(uplinks[0]!)).toMatch(/^66 % of 1,000 sessions; as asked for/);
    const [first] = view.gateways[0]!.uplinks;
    const askew = rowsOf({
      uplinks: [
        { ...first!, sessions: 500 },
        { ...view.gateways[0]!.uplinks[1]!, sessions: 500 },
      ],
    });
    expect([askew.fits, countedWords(askew.uplinks[0]!)]).toEqual([false, expect.stringContaining('not as asked for')]);
  });

  it('say what they carried of their allowance, when it is used up at this pace, and what is beyond', () => {
    const row = rowsOf().uplinks[0]!;
    const said = (octets: number, allowance: number | null) =>
      carriedWords(
        {
          setting: { ...row.setting, allowance, price: 3 },
          fact: { ...row.fact!, carried: { octets, since: '2026-11-01' } },
        },
        Date.parse('2026-11-16T00:00:00Z'),
      );
    expect(said(1.5e9, null)).toEqual({ words: '1.5 GB since 1 Nov', tone: '' });
    expect(said(120e9, 200)).toEqual({
      words: '120 GB of 200 GB since 1 Nov, used up on 26 Nov at this pace',
      tone: 'caution',
    });
    expect(said(212e9, 200)).toEqual({
      words: 'The allowance is used up: 212 GB of 200 GB since 1 Nov; what is beyond costs 36',
      tone: 'bad',
    });
  });

  it('say how they fare', () => {
    const words = (more: object) => {
      const [first, second] = view.gateways[0]!.uplinks;
      return fareWords(rowsOf({ uplinks: [{ ...first!, ...more }, second!] }).uplinks[0]!, (ms) => `${ms}`);
    };
    expect(words({})).toBe('good since 5 · 9 ms ± 1');
    expect(words({ state: 'none', why: 'No link.', address: null })).toBe('no address since 5 · No link.');
    expect(words({ state: 'gone', loss: 0.4, flaps: 2 })).toContain(
      '40 % of questions without an answer · came and went 3 times',
    );
    expect(fareWords(gatewayRows(site, [gateway], null)[0]!.uplinks[0]!, String)).toBe('not told yet');
  });

  it('say what the provider gave by IPv6, or why nobody did', () => {
    const words = (six: object | null) => {
      const [first, second] = view.gateways[0]!.uplinks;
      const uplink = { ...first!, ...(six ? { six: { address: null, since: 7, ...six } } : {}) } as typeof first &
        object;
      const row = rowsOf({ uplinks: [uplink, second!] }).uplinks[0]!;
      return [sixWords(row, String), fareWords(row, String)];
    };
    expect(words(null)[0]).toBe('');
    expect(words({ address: '2001:db8::5', gateway: 'fe80::1', prefix: '2001:db8:7::/56' })[0]).toBe(
      '2001:db8::5, gateway fe80::1; 2001:db8:7::/56 for the inside, since 7',
    );
    expect(words({ why: 'The provider has no IPv6.' })).toEqual([
      'The provider has no IPv6.',
      'good since 5 · no IPv6: The provider has no IPv6. · 9 ms ± 1',
    ]);
  });

  it('that were said at the gateway’s own page keep the password that was said there', () => {
    const login = { user: 'line-58', password: { secret: 'kept' } };
    const at = { ...gateway, first: { port: 'wan1', way: 'pppoe' as const, login } };
    const kept = uplinkSetting({}, at, 'wan1');
    expect(textOf(kept)).toMatchObject({ way: 'pppoe', user: 'line-58', password: '' });
    expect(entryTyped(null, { ...textOf(kept), user: 'line-59' }, ['user'], kept.login!.password)).toEqual({
      login: { user: 'line-59', password: { secret: 'kept' } },
    });
  });

  it('are said field by field, and what was not typed stays', () => {
    const kept = uplinkSetting(site, gateway, 'wan1');
    const typed = (change: Partial<UplinkText>) =>
      entryTyped(
        { title: 'Tidewire', weight: 2 },
        { ...textOf(kept), ...change },
        Object.keys(change) as (keyof UplinkText)[],
        null,
      );
    expect(typed({ weight: '5' })).toEqual({ title: 'Tidewire', weight: 5 });
    expect(typed({ down: '500,5', dns: '192.0.2.1, 192.0.2.2' })).toMatchObject({
      down: 500.5,
      dns: ['192.0.2.1', '192.0.2.2'],
    });
    expect(typed({ title: ' ', vlan: 'x' })).toMatchObject({ title: null, vlan: -1 });
    expect(typed({ targets: 'ping gateway\ndns 192.0.2.53 gull.example\n198.51.100.1' }).watch?.targets).toEqual([
      { by: 'ping', to: 'gateway' },
      { by: 'dns', to: '192.0.2.53', name: 'gull.example' },
      { by: 'ping', to: '198.51.100.1' },
    ]);
    const login = entryTyped(null, { ...textOf(kept), user: 'skerrow', password: 'x' }, ['user', 'password'], {
      secret: 'id',
    });
    expect(login.login).toEqual({ user: 'skerrow', password: { secret: 'id' } });
  });

  it('cost more to watch the sooner it is noticed that they are gone', () => {
    const watch = uplinkSetting(site, gateway, 'wan1').watched;
    const [slow, fast] = [pointOf(watch, 30)!, pointOf(watch, 1)!];
    expect(slow.mean).toBeGreaterThan(fast.mean);
    expect(slow.megabytes).toBeLessThan(fast.megabytes);
    expect(pointOf(watch, 5)).toMatchObject({ best: 12, mean: 14.5, worst: 17 });
    expect(pointOf({ ...watch, targets: [] }, 5)).toBeNull();
  });
});

describe('a mishap that is typed', () => {
  const text = { what: 'silent' as const, port: 'wan1', from: '30', to: '150', amount: '', target: '' };
  it('is one, or says what is wrong with it', () => {
    expect(readMishap(text, 'g', 900)).toEqual({
      mishap: { what: 'silent', port: 'wan1', from: 30, to: 150, gatewayId: 'g' },
    });
    expect(readMishap({ ...text, what: 'lossy', amount: '30' }, 'g', 900)).toMatchObject({ mishap: { amount: 0.3 } });
    for (const [change, words] of [
      [{ to: '20' }, /ends after it began/],
      [{ to: '1000' }, /900 s after the start/],
      [{ from: 'x' }, /begins 0 to 899/],
      [{ what: 'slow' as const }, /how much/],
      [{ what: 'target' as const }, /which target/],
    ] as const)
      expect(readMishap({ ...text, ...change }, 'g', 900)).toMatchObject({
        flaw: expect.stringMatching(words) as string,
      });
  });
});
