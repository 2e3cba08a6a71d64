import { describe, expect, test } from 'vitest';
import { inEffect, type DeviceDocument, type GatewayDocument } from '../document';
import { overlayAt, resolve, usualPair, type Link, type Operation, type Pair, type RosterDevice } from '../intent';
import { leaveBehind } from '../intake';
import { compileSite } from '../rollout';
import { appliedWith, refusedWith, sampleId, sampleJoin, samplePair, sampleSites } from '../testing';
import { consequencesOf, findingsOf, mateOf, rehearsedGateway, type FindingsInput } from '.';

const sample = samplePair({ tracks: { first: ['wan1'], second: ['wan1'] } });
const { first, second, roster, links, site: plain } = sample;
const siteId = plain.id;
const sw = roster.find(({ model }) => model.startsWith('SW'))!;
const twoSwitches = samplePair({ tracks: { first: ['wan1'], second: ['wan1'] } }, { segments: 3, aps: 2, switches: 2 });

function at(more: Partial<Pair> = {}, ...operations: Operation[]): FindingsInput {
  const made: Operation = { ...sample.made, to: { ...sample.made.to!, ...more } };
  const intent = appliedWith(roster, sample.intent, made, ...operations);
  return { estate: intent.estate, site: intent.sites.get(siteId)!, roster, links };
}
const pairs = (input: FindingsInput) => findingsOf(input).filter(({ code }) => code.startsWith('paths.pair-'));
const codes = (input: FindingsInput) => pairs(input).map(({ code }) => code.replace('paths.pair-', ''));
const up = (device: RosterDevice, port: string, gateway: string) => ({
  ...{ deviceId: device.id, port, address: `${gateway.slice(0, -1)}9`, gateway },
});

describe('what is wrong with a pair of gateways', () => {
  test('nothing, but that both hang on the one switch that there is', () => {
    expect(pairs(at()).map(({ message }) => message)).toEqual(['x-gw-01 and x-gw-02 hang on one switch']);
    const { intent, made, roster: devices, links: cables } = twoSwitches;
    const here = appliedWith(devices, intent, made);
    const chain = devices.filter(({ model }) => model.startsWith('SW'));
    const moved = cables.map((link): Link => {
      const isSecond = link.a.deviceId === twoSwitches.second.id;
      return isSecond ? { ...link, b: { deviceId: chain[1]!.id, port: '26' } } : link;
    });
    const input = { estate: here.estate, site: here.sites.get(siteId)!, roster: devices, links: moved };
    expect(codes(input)).toEqual([]);
  });

  test('a gateway that is not there is said, and the mend takes the pair apart', () => {
    const input = at();
    const [finding] = pairs({ ...input, roster: roster.filter(({ id }) => id !== second.id) });
    expect(finding).toMatchObject({
      severity: 'warning',
      reason: 'x-gw-01 is told nothing of a pair until both are: nothing takes over.',
    });
    const mended = appliedWith(
      roster,
      { estate: input.estate, sites: new Map([[siteId, input.site]]) },
      ...finding!.mend!.operations,
    );
    expect(mended.sites.get(siteId)!.pair).toBeUndefined();
  });

  test('without room for own addresses', () => {
    const { addresses } = plain.segments[0]!;
    const all = { ...addresses!, first: '10.1.1.2', last: '10.1.1.254' };
    const wide: Operation = {
      ...{ type: 'segment.set', siteId, segmentId: plain.segments[0]!.id },
      ...{ from: { addresses }, to: { addresses: all } },
    };
    expect(pairs(at({}, wide))[0]!.message).toBe('Management has no two addresses for x-gw-01 and x-gw-02 themselves');
    // Nobody is told of a pair then, and no address is at both at once.
    const told = [first, second].map(({ id }) => documents(at({}, wide)).get(id) as GatewayDocument);
    expect(told.map(({ pair, interfaces }) => [pair, interfaces.length])).toEqual([
      [undefined, 3],
      [undefined, 0],
    ]);
  });

  test('who is not heard is found with the mend, and a segment that does not get to the one that stands by', () => {
    const none: Operation = {
      ...{ type: 'port.set', siteId, deviceId: sw.id, port: '26', from: null },
      to: { untagged: null, tagged: [] },
    };
    const [finding] = pairs(at({}, none));
    expect(finding).toMatchObject({ code: 'paths.pair-apart', severity: 'error' });
    expect(codes(at({}, none, ...finding!.mend!.operations))).not.toContain('apart');
    const alone: Operation = { ...none, to: { untagged: plain.segments[0]!.id, tagged: [] } };
    const lacking = findingsOf(at({}, alone)).filter(({ code }) => code === 'lattice.not-carried');
    expect(lacking.map(({ reason }) => reason)).toEqual([
      expect.stringContaining('x-gw-02 takes over there when the other gateway fails'),
      expect.stringContaining('x-gw-02 takes over there'),
    ]);
    const mends = lacking.flatMap(({ mend }) => mend!.operations);
    expect(findingsOf(at({}, alone, ...mends)).filter(({ code }) => code === 'lattice.not-carried')).toEqual([]);
    const unplugged = links.filter(({ a }) => a.deviceId !== second.id);
    expect(codes({ ...at(), links: unplugged })).toContain('apart');
  });

  test('one that hangs on the other alone can take over nothing', () => {
    const behind = [
      ...links.filter(({ a }) => a.deviceId !== second.id),
      { a: { deviceId: second.id, port: '1' }, b: { deviceId: first.id, port: '2' } },
    ];
    expect(codes({ ...at(), links: behind })).toEqual(['behind']);
  });

  test('what takes both at once: a provider, and what feeds them', () => {
    const power = { first: 'Battery A', second: 'battery a' };
    expect(codes(at({ power }))).toContain('power');
    expect(codes(at({ power: { ...power, second: 'Battery B' } }))).not.toContain('power');
    const one = [up(first, 'wan1', '203.0.113.1'), up(second, 'wan1', '203.0.113.1')];
    expect(codes({ ...at(), uplinks: one })).toContain('provider');
    for (const uplinks of [
      [one[0]!, up(second, 'wan1', '198.51.100.1')],
      [...one, up(second, 'wan2', '198.51.100.1')],
      [one[0]!],
    ])
      expect(codes({ ...at(), uplinks })).not.toContain('provider');
  });

  test('a first whose uplinks nobody tracks, which one press mends', () => {
    const tracks = { first: [], second: [] };
    const [finding] = pairs(at({ tracks })).filter(({ code }) => code === 'paths.pair-untracked');
    const mended = at({ tracks }, ...finding!.mend!.operations);
    expect(mended.site.pair!.tracks).toEqual({ first: ['wan1', 'wan2'], second: ['wan1', 'wan2'] });
    expect(codes(mended)).toEqual(['single-switch']);
  });

  test('what is said of the first by an uplink that the second does not have', () => {
    const off: Operation[] = [
      { type: 'uplink.set', siteId, deviceId: second.id, port: 'wan2', from: null, to: { on: false } },
    ];
    const course: Operation = {
      ...{ type: 'course.add', siteId },
      course: {
        ...{ id: sampleId(40, 1), deviceId: first.id, name: 'Calls', from: [{ kind: 'any' }], to: [{ kind: 'any' }] },
        ...{ services: [{ protocol: 'udp' }], turn: 1, ports: ['wan2'], how: 'first', otherwise: 'usual' },
      },
    };
    expect(codes(at({}, ...off, course))).toContain('ports');
    expect(codes(at({}, course))).not.toContain('ports');
    const told = documents(at({}, course));
    expect(told.get(second.id)).toMatchObject({ courses: [{ name: 'Calls' }] });
  });
});

const documents = ({ estate, site }: FindingsInput): ReadonlyMap<string, DeviceDocument> =>
  compileSite(resolve(estate, site), roster);

describe('who is told first', () => {
  const told = (input: FindingsInput) => Object.fromEntries(documents(input));
  const order = (from: FindingsInput, to: FindingsInput) =>
    consequencesOf({ ...to, told: told(from) })
      .changes.map(({ name }) => name)
      .filter((name) => name.includes('gw'));
  const alone: FindingsInput = { estate: sample.intent.estate, site: plain, roster, links };

  test('of two that become a pair the one that routes; of two that are taken apart the one that lets go', () => {
    expect(order(alone, at())).toEqual(['x-gw-01', 'x-gw-02']);
    expect(order(at(), alone)).toEqual(['x-gw-02', 'x-gw-01']);
    const turned = at({ firstId: second.id, secondId: first.id });
    expect(order(alone, turned)).toEqual(['x-gw-01', 'x-gw-02']);
  });

  test('both are told all that the one that routes is, and each its own priority and address', () => {
    const [one, other] = [first, second].map(({ id }) => documents(at()).get(id)!);
    expect({ ...one, pair: 0, device: 0 }).toEqual({ ...other, pair: 0, device: 0 });
    expect(one).toMatchObject({ pair: { role: 'first', priority: 200, own: '10.1.1.2/24', other: '10.1.1.3/24' } });
    expect(other).toMatchObject({ pair: { role: 'second', priority: 150, with: 'x-gw-01', tracks: ['wan1'] } });
    const alike = documents(at({ back: false }));
    expect([first, second].map(({ id }) => (alike.get(id) as { pair: { priority: number } }).pair.priority)).toEqual([
      150, 150,
    ]);
  });
});

test('who is kept from the gateway is kept from the own addresses of both', () => {
  const [, guests] = plain.segments;
  const kept: Operation = {
    ...{ type: 'segment.set', siteId, segmentId: guests!.id },
    ...{ from: { isolation: null }, to: { isolation: { gateway: true } } },
  };
  const denied = (input: FindingsInput): string[] => {
    const document = documents(input).get(first.id) as GatewayDocument;
    return document.policy!.rules.filter(({ verdict }) => verdict === 'deny').flatMap(({ to }) => to);
  };
  expect(denied(at({}, kept)).join()).toMatch(/10\.1\.1\.1-10\.1\.1\.3/);
  const alone = appliedWith(roster, sample.intent, kept);
  const lone = { estate: alone.estate, site: alone.sites.get(siteId)!, roster, links };
  expect(denied(lone).join()).not.toContain('10.1.1.3');
});

test('a site whose gateway of a pair goes is told that nothing takes over', () => {
  const { estate, site } = at();
  const left = leaveBehind(resolve(estate, site), roster, links, second);
  expect(left.map(({ code, message }) => [code, message])).toContainEqual([
    'pair',
    'x-gw-01 would route alone: nothing takes over when it fails.',
  ]);
  expect(leaveBehind(resolve(estate, site), roster, links, sw).some(({ code }) => code === 'pair')).toBe(false);
});

describe('a guarantee about outages', () => {
  const served: Operation = {
    ...{ type: 'guarantee.add', siteId },
    guarantee: {
      ...{ id: sampleId(41, 1), kind: 'served', from: [{ kind: 'segment', name: 'Segment 1' }] },
      ...{ to: [{ kind: 'internet' }], services: [{ protocol: 'any' }] },
      ...{ fails: 1, within: 25 },
    },
  };
  const held = (input: FindingsInput) => consequencesOf({ ...input, told: {} }).guarantees[0]!;

  test('holds where the other gateway takes over in time, and not where it is slower', () => {
    const one: Operation = {
      type: 'uplink.set',
      siteId,
      deviceId: first.id,
      port: 'wan2',
      from: null,
      to: { on: false },
    };
    const alone = appliedWith(roster, sample.intent, one, served);
    const lone = { estate: alone.estate, site: alone.sites.get(siteId)!, roster, links };
    expect(held(lone)).toMatchObject({
      state: 'broken',
      why: expect.stringContaining('as long as it lasts') as string,
    });
    expect(held(at({}, one, served))).toMatchObject({ state: 'holds' });
    // Nothing is heard for 30 s then, before the other takes over.
    expect(held(at({ advert: 1000 }, one, served))).toMatchObject({
      state: 'broken',
      why: expect.stringMatching(/Segment 1 waits for \d+ s at worst/) as string,
    });
  });

  test('the other of a pair is known to rehearsals with what it measured', () => {
    const { site } = at();
    const mate = mateOf(site, roster, first, (id) => (id === second.id ? { uplinks: [] } : null));
    const gateway = rehearsedGateway(site, first, null, mate);
    expect(gateway.pair).toMatchObject({
      first: true,
      advert: 100,
      own: { address: '10.1.1.2' },
      other: { address: '10.1.1.3' },
    });
    expect(mateOf(plain, roster, first)).toBeNull();
    expect(mateOf(site, roster, sw)).toBeNull();
  });
});

describe('a pair at a site that is joined to others', () => {
  const many = sampleSites({ sites: 3, segments: 2 });
  const [hub, spoke] = [many.siteIds[0]!, many.siteIds[2]!];
  const own = many.roster.find(({ siteId }) => siteId === hub)!;
  const spare: RosterDevice = { ...own, id: sampleId(2, 90), name: `${own.name}b`, serial: 'GW-90' };
  const all = [...many.roster, spare];
  const made: Operation = { type: 'pair.set', siteId: hub, from: null, to: usualPair(own.id, spare.id) };
  const joined = appliedWith(all, many.intent, ...sampleJoin(1, 2), made);
  const memberId = joined.estate.members!.find(({ siteId }) => siteId === hub)!.id;
  const found = joined.estate.members![0]!.found;
  const say = (key: string, address: string): Operation => ({
    ...{ type: 'member.set', memberId, from: { found }, to: { found: { ...found, [key]: address } } },
  });
  const codesAt = (intent: typeof joined, siteId: string) =>
    findingsOf({
      ...{ estate: intent.estate, site: intent.sites.get(siteId)!, links: [] },
      roster: all.filter((device) => device.siteId === siteId),
    }).map(({ code }) => code);

  test('both are told of its tunnels with one key, and which of the two is called is said', () => {
    const documents = compileSite(
      resolve(joined.estate, joined.sites.get(hub)!),
      all.filter(({ siteId }) => siteId === hub),
    );
    const [one, other] = [own.id, spare.id].map((id) => documents.get(id) as GatewayDocument);
    expect(one!.overlay).toEqual(other!.overlay);
    expect(inEffect(documents).get(spare.id)).not.toHaveProperty('overlay');
    expect(inEffect(documents, 'second').get(own.id)).toMatchObject({ interfaces: [] });
    const known = appliedWith(all, joined, say(`${spare.id} wan1`, '198.51.100.99'));
    expect(overlayAt(known.estate, spoke)!.peers[0]!.at).toEqual([...Object.values(found), '198.51.100.99']);
    expect(refusedWith(all, joined, say(`${sampleId(2, 77)} wan1`, '198.51.100.99'))).toMatch(/cannot be an uplink/);
  });

  test('that nobody finds the one that takes over is found, until it is said where', () => {
    expect(codesAt(joined, hub)).toContain('overlay.pair-unfound');
    expect(codesAt(joined, hub)).not.toContain('overlay.elsewhere');
    expect(codesAt(appliedWith(all, joined, say(`${spare.id} wan1`, '198.51.100.99')), hub)).not.toContain(
      'overlay.pair-unfound',
    );
  });
});
