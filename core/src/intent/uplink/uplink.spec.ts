import { describe, expect, test } from 'vitest';
import {
  apply,
  checkFirst,
  leavingSetting,
  uplinkSetting,
  uplinkSettings,
  type Intent,
  type Operation,
  type RosterDevice,
  type UplinkEntry,
} from '..';
import { compileSite } from '../../rollout';
import { resolve } from '../resolve';
import { sampleSite } from '../../testing';
import type { FirstUplink, GatewayDocument } from '../../document';

const sample = sampleSite({ segments: 2, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const siteId = sample.site.id;
const lookup = (id: string) => sample.roster.find((each) => each.id === id);
const set = (port: string, to: UplinkEntry | null, from: UplinkEntry | null = null): Operation => ({
  ...{ type: 'uplink.set', siteId, deviceId: gateway.id, port, from, to },
});
function done(operation: Operation, intent: Intent = sample.intent) {
  const outcome = apply(intent, operation, lookup);
  if (!outcome.ok) throw new Error(outcome.flaws.map(({ message }) => message).join(' '));
  return { intent: outcome.intent, site: outcome.intent.sites.get(siteId)!, inverse: outcome.inverse };
}
function refused(operation: Operation, intent: Intent = sample.intent): string {
  const outcome = apply(intent, operation, lookup);
  if (outcome.ok) throw new Error('it was taken');
  return outcome.flaws.map(({ message }) => message).join(' ');
}
const told = ({
  intent,
  site,
}: {
  intent: Intent;
  site: Intent['sites'] extends ReadonlyMap<string, infer S> ? S : never;
}) => compileSite(resolve(intent.estate, site), sample.roster).get(gateway.id) as GatewayDocument;
const fixed = { address: '203.0.113.11/29', gateway: '203.0.113.9' };
const watch = {
  ...{ interval: 5, losses: 3, timeout: 2, good: 3, hold: 15 },
  targets: [{ by: 'ping' as const, to: 'gateway' }],
};

describe('uplinks', () => {
  test('are as the sheet has them until something is said, which is kept where it differs and taken back whole', () => {
    expect(uplinkSettings(sample.site, gateway).map(({ port, role, way }) => [port, role, way])).toEqual([
      ['wan1', 'shares', 'dhcp'],
      ['wan2', 'standby', 'dhcp'],
    ]);
    const first = done(set('wan1', { title: ' Tidewire ', way: 'static', fixed, weight: 1, clamp: true }));
    expect(first.site.uplinks).toEqual({ [gateway.id]: { wan1: { title: 'Tidewire', way: 'static', fixed } } });
    expect(uplinkSetting(first.site, gateway, 'wan1').own).toEqual(['title', 'way', 'fixed']);
    expect(done(first.inverse, first.intent).site).toEqual(sample.site);
  });

  test('are told to the gateway where they are not as usual', () => {
    expect(told({ intent: sample.intent, site: sample.site }).uplinks).toEqual([
      { port: 'wan1', method: 'dhcp', translate: true },
      { port: 'wan2', method: 'dhcp', translate: true },
    ]);
    const one = done(set('wan2', { role: 'shares', weight: 3, way: 'satellite' }));
    const { uplinks, leaving } = told(one);
    expect(uplinks[1]).toMatchObject({ port: 'wan2', method: 'dhcp', weight: 3, watch: { interval: 20 } });
    expect([uplinks[0], leaving]).toEqual([{ port: 'wan1', method: 'dhcp', translate: true }, undefined]);
  });

  test('by capacity have the weights of what they can do, once that is known', () => {
    const both = done(set('wan2', { role: 'shares', down: 250 })).intent;
    const by: Operation = {
      type: 'uplink.leaving',
      siteId,
      deviceId: gateway.id,
      from: null,
      to: { by: 'capacity', back: 'hand' },
    };
    expect(refused(by, both)).toMatch('Say first what wan1 can do');
    const known = done(by, done(set('wan1', { down: 500 }), both).intent);
    expect(leavingSetting(known.site, gateway)).toMatchObject({ by: 'capacity', back: 'hand', begins: 'all' });
    expect(told(known)).toMatchObject({ uplinks: [{ weight: 500 }, { weight: 250 }], leaving: { back: 'hand' } });
  });

  test('a port of the inside becomes one where its sheet allows, and carries nothing of the inside any more', () => {
    expect(refused(set('3', { on: true }))).toMatch('cannot be an uplink');
    const made = done(set('4', { on: true }));
    expect(told(made)).toMatchObject({ uplinks: [{ port: 'wan1' }, { port: 'wan2' }, { port: '4' }] });
    expect(told(made).ports.map(({ name }) => name)).toEqual(['1', '2', '3']);
    const port: Operation = {
      type: 'port.set',
      siteId,
      deviceId: gateway.id,
      port: '4',
      from: null,
      to: { poe: 'off' },
    };
    expect(refused(port, made.intent)).toMatch('faces a provider');
  });

  test.each([
    [
      'a gateway outside of its subnet',
      { way: 'static', fixed: { ...fixed, gateway: '203.0.113.20' } },
      /outside of its subnet, 203.0.113.9-203.0.113.14/,
    ],
    [
      'an address that is its network’s',
      { way: 'static', fixed: { ...fixed, address: '203.0.113.8/29' } },
      /no address that a host may have/,
    ],
    [
      'the provider’s own address',
      { way: 'static', fixed: { address: '203.0.113.9/29', gateway: '203.0.113.9' } },
      /has another address/,
    ],
    ['no address at all', { way: 'static' }, /Say the address/],
    ['no login', { way: 'pppoe' }, /name and the password/],
    ['a VLAN ID that is none', { vlan: 4095 }, /1 to 4094/],
    ['packets that IPv6 cannot do with', { mtu: 1000, six: 'slaac' }, /IPv6 needs 1280/],
    [
      'packets longer than PPPoE lets through',
      { way: 'pppoe', mtu: 1500, login: { user: 'a', password: { secret: gateway.id } } },
      /576 to 1492/,
    ],
    ['a group’s MAC address', { mac: '01:00:5e:00:00:01' }, /group of devices/],
    ['more than the port does', { down: 9000 }, /does 2500 Mb\/s at most/],
    ['a day that not every month has', { allowance: 50, anew: 31 }, /every month has/],
    [
      'an interval shorter than the timeout',
      { watch: { ...watch, interval: 1 } },
      /shorter than an answer is waited for/,
    ],
    ['no target', { watch: { ...watch, targets: [] } }, /at least one target/],
    ['a target twice', { watch: { ...watch, targets: [...watch.targets, ...watch.targets] } }, /asked twice/],
    [
      'a name as a target',
      { watch: { ...watch, targets: [{ by: 'ping', to: 'gull.example' }] } },
      /cannot be looked up while/,
    ],
    ['a question for no name', { watch: { ...watch, targets: [{ by: 'dns', to: '192.0.2.53' }] } }, /Say the name/],
    ['weights that are all 0', { weight: 0 }, /All weights are 0/],
    ['only standbys', { role: 'standby' }, /at least has to take a share/],
  ] as const)('%s is refused in words', (_what, to, words) => {
    expect(refused(set('wan1', to as UplinkEntry))).toMatch(words);
  });

  test('two never have one address, and none meets a segment of the estate', () => {
    const first = done(set('wan1', { way: 'static', fixed })).intent;
    expect(refused(set('wan2', { way: 'static', fixed }), first)).toMatch('Its uplink wan1 has 203.0.113.11 already');
    const inside = sample.site.segments[0]!;
    const subnet = inside.subnet.split('/')[0]!.replace(/0$/, '');
    const clash = { address: `${subnet}200/24`, gateway: `${subnet}1` };
    expect(refused(set('wan1', { way: 'static', fixed: clash }))).toMatch(
      `It meets ${inside.name} of ${sample.site.name}`,
    );
  });

  test('an edit that somebody overtook is refused', () => {
    const first = done(set('wan1', { title: 'Tidewire' })).intent;
    expect(refused(set('wan1', { title: 'Hillcrest' }), first)).toMatch('meanwhile');
  });
});

test.each([
  ['192.0.2.53', {}, null],
  ['192.0.2.x', {}, 'is no address of a name server'],
  ['203.0.113.11', { way: 'static', fixed }, 'is the uplink’s own address'],
  ['203.0.113.15', { way: 'static', fixed }, 'no address that a host may have'],
  ['203.0.113.9', { way: 'static', fixed }, null],
  ['2001:db8::53', {}, 'is asked by IPv6, which this uplink does not use'],
  ['2001:db8::53', { six: 'slaac' }, null],
] as const)('the name server %s of an uplink %j: %s', (server, more, why) => {
  const operation = set('wan1', { ...more, dns: [server] });
  if (why === null) done(operation);
  else expect(refused(operation)).toContain(why);
});

describe('what was said at the gateway’s own page', () => {
  const first: FirstUplink = {
    port: 'wan1',
    way: 'static',
    fixed: { address: '203.0.113.11/29', gateway: '203.0.113.9' },
  };
  const device: RosterDevice = { ...gateway, first };

  test('holds where nothing else is said, and is nothing of its own', () => {
    expect(uplinkSetting({}, device, 'wan1')).toMatchObject({ way: 'static', fixed: first.fixed, own: [] });
    expect(uplinkSetting({}, device, 'wan2')).toMatchObject({ way: 'dhcp', fixed: null });
    const said = { uplinks: { [device.id]: { wan1: { way: 'dhcp', fixed: null } } } } as const;
    expect(uplinkSetting(said, device, 'wan1')).toMatchObject({ way: 'dhcp', fixed: null, own: ['way', 'fixed'] });
  });

  test('is checked by itself as an uplink is', () => {
    const said = (more: object): string[] =>
      checkFirst(device, { ...first, ...more } as FirstUplink<string>).map(({ code }) => code);
    expect(said({})).toEqual([]);
    expect(said({ port: '4' })).toEqual(['uplink.port']); // becomes one only once a controller says so
    expect(said({ fixed: { address: '203.0.113.11/29', gateway: '203.0.113.1' } })).toEqual(['uplink.gateway-outside']);
    expect(said({ way: 'pppoe' })).toEqual(['uplink.no-login']);
    expect(said({ way: 'pppoe', login: { user: 'a', password: 'é' } })).toEqual(['uplink.password']);
    expect(said({ vlan: 4095 })).toEqual(['uplink.vlan']);
  });
});
