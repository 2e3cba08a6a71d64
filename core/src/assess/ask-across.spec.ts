import { describe, expect, test } from 'vitest';
import { compileSite, enforcedAt } from '../rollout';
import { resolve, type Intent, type Operation } from '../intent';
import { appliedWith, sampleId, sampleJoin, sampleSites } from '../testing';
import { acrossTo, joinAnswers } from './ask-across';
import { ask, type Asked } from './ask';
import { addressesOfSegment, saidElsewhere } from './elsewhere';
import { partQuestion } from './question';

const sample = sampleSites({ sites: 4, segments: 3 });
const { siteIds, roster } = sample;
const joined = appliedWith(roster, sample.intent, ...sampleJoin(1, 2));
const done = (...operations: Operation[]): Intent => appliedWith(roster, joined, ...operations);
const up = (): boolean => true;
function asked({ estate, sites }: Intent, n: number, from: string, to: string, more: object = {}): Asked {
  const site = resolve(estate, sites.get(siteIds[n]!)!);
  const devices = roster.filter(({ siteId }) => siteId === siteIds[n]);
  const live = enforcedAt(site, devices, compileSite(site, devices));
  const got = ask(
    { site, roster: devices, live },
    { question: { from, to, services: 'tcp 9100' }, on: 'draft', minute: null, ...more },
  );
  if ('flaws' in got) throw new Error(JSON.stringify(got.flaws));
  return got;
}
const deny = (n: number, from: string, to: string): Operation => ({
  ...{ type: 'rule.add', siteId: siteIds[n]!, behind: null },
  rules: [
    {
      ...{ id: sampleId(30, n), verdict: 'deny', services: [{ protocol: 'any' }] },
      ...{ from: [{ kind: 'addresses', text: from }], to: [{ kind: 'addresses', text: to }] },
    },
  ],
});

describe('a question from one site to another', () => {
  test('is led into a tunnel where a joined site has what is asked for, and dropped where none has', () => {
    const led = asked(joined, 1, 'Segment 1', '10.0.33.0/24');
    expect(led).toMatchObject({ reach: 'all', led: true });
    expect(led.there.at(-1)).toMatchObject({
      title: 'Led on',
      detail: '10.0.0.0/8 is of joined sites: it goes into the tunnel to Site 0.',
    });
    const lost = asked(sampleUnjoined(), 1, 'Segment 1', '10.200.0.0/24');
    // Not joined: it leaves as the rest does, and no provider has it.
    expect(lost).toMatchObject({ reach: 'none', there: [{ passed: true }, { title: 'Gets nowhere' }] });
    const hub = asked(joined, 0, 'Segment 1', '10.200.0.0/24');
    expect(hub).toMatchObject({ reach: 'none' });
    expect(hub.there.at(-1)).toMatchObject({ title: 'Dropped', passed: false });
  });

  test('is answered by both gateways, step by step', () => {
    const here = asked(joined, 1, 'Segment 1', '10.0.33.0/24');
    const way = acrossTo(joined.estate, siteIds[1]!, here.follows!, '10.0.33.0/24', up)!;
    expect(way).toMatchObject({ siteId: siteIds[2], name: 'Site 2', passed: true, whole: true });
    expect(way.steps).toMatchObject([{ title: 'Handed on', detail: 'By Site 0 it comes to Site 2.' }]);
    const there = asked(joined, 2, '10.0.17.0/24', '10.0.33.0/24');
    const both = joinAnswers(here, way, there);
    expect(both.reach).toBe('all');
    expect(both.there.map(({ at }) => at)).toEqual(['s1-gw-01', 's1-gw-01', 'the tunnels', 's2-gw-01, Site 2']);
    expect(both.back.map(({ at }) => at)).toEqual(['s2-gw-01, Site 2', 's1-gw-01']);
    const shut = done(deny(2, '10.0.17.0/24', '10.0.33.0/24'));
    const stopped = joinAnswers(here, way, asked(shut, 2, '10.0.17.0/24', '10.0.33.0/24'));
    expect(stopped).toMatchObject({ reach: 'none', allowed: [], back: [] });
    expect(stopped.there.at(-1)).toMatchObject({ at: 's2-gw-01, Site 2', passed: false });
    // An answer that is cut there does not come on to the first gateway.
    const cut = { ...there, back: [{ ...there.back[0]!, passed: false }] };
    expect(joinAnswers(here, way, cut).back.map(({ at, passed }) => [at, passed])).toEqual([
      ['s2-gw-01, Site 2', false],
    ]);
    // Of what is asked for only a part is there: nobody says that all of it is reached.
    const part = acrossTo(joined.estate, siteIds[1]!, here.follows!, '10.0.0.0/8', up)!;
    expect(joinAnswers(here, part, there).reach).toBe('some');
  });

  test('comes to nothing where no tunnel leads there, or one end does not share it', () => {
    const here = asked(joined, 1, 'Segment 1', '10.0.33.0/24');
    const down = acrossTo(joined.estate, siteIds[1]!, here.follows!, '10.0.33.0/24', () => false)!;
    const answer = joinAnswers(here, down, null);
    expect(answer).toMatchObject({ reach: 'none', back: [] });
    expect(answer.there.at(-1)!.detail).toBe('No tunnel that is up leads from Site 1 to Site 2.');
    const [first] = joined.sites.get(siteIds[1]!)!.segments;
    const shy = done({
      ...{ type: 'member.set', memberId: sampleId(20, 1), from: { segments: 'all' }, to: { segments: [first!.id] } },
    });
    const unshared = acrossTo(shy.estate, siteIds[1]!, here.follows!, '10.0.33.0/24', up)!;
    expect(unshared.steps[0]!.detail).toContain('Site 1 does not share');
  });

  test('names the other site where it begins or ends', () => {
    const sites = [...joined.sites.values()];
    expect(saidElsewhere(' Segment 1 at site 2 ', sites)).toEqual({
      siteId: siteIds[2],
      site: 'Site 2',
      name: 'Segment 1',
    });
    expect(saidElsewhere('Segment 1', sites)).toBeNull();
    expect(addressesOfSegment(sites[2]!, 'segment 1')).toBe('10.0.33.0/24');
    expect(addressesOfSegment(sites[2]!, 'Other')).toBeNull();
    const known = { segment: ['Crew', 'Ticketing'] };
    const names = ['Ansel Quay', 'Petrel'];
    expect(partQuestion('Can Crew at Petrel reach Ticketing at Ansel Quay on tcp 443?', known, names)).toEqual({
      ...{ from: 'Crew at Petrel', to: 'Ticketing at Ansel Quay', services: 'tcp 443' },
    });
    expect(partQuestion('may crew reach ticketing at ansel quay', known, names)).toEqual({
      ...{ from: 'crew', to: 'ticketing at ansel quay', services: 'any' },
    });
    expect(partQuestion('crew to 10.1.1.1 at 9100', known, names)).toEqual({
      from: 'crew',
      to: '10.1.1.1',
      services: 'tcp 9100; udp 9100',
    });
  });
});

const sampleUnjoined = (): Intent => sample.intent;
