import { samplePair } from '@iron-lattice/core/testing';
import { rehearse, USUAL_WATCH, type PairSelf, type RehearsedGateway } from '@iron-lattice/core/paths';
import { addressWords, chosenAt, madePair, pairTextOf, pairTyped, standWords, waitWords } from './pair-text';
import { gatewayRows } from './path-rows';
import { drillWords, failureLines, sumWords } from './rehearsal-words';

const { site, roster, first, second, made } = samplePair({ tracks: { first: ['wan1'], second: ['wan2'] } });
const pair = made.to!;

describe('a pair of gateways on the screen', () => {
  it('is made of the two at one press, with the uplinks of both tracked', () => {
    expect(madePair(site, [...roster].reverse())).toMatchObject({
      ...{ firstId: first.id, secondId: second.id, back: true, leases: true },
      tracks: { first: ['wan1', 'wan2'], second: ['wan1', 'wan2'] },
    });
    expect(madePair(site, [first])).toBeNull();
  });

  it('is read as it is typed; what is no number is refused, not guessed', () => {
    const text = pairTextOf(pair);
    expect(pairTyped(text)).toEqual(pair);
    expect(pairTyped({ ...text, advert: '0.25', router: '7' })).toMatchObject({ advert: 25, router: 7 });
    expect(pairTyped({ ...text, advert: 'soon', router: '' })).toMatchObject({ advert: -100, router: -1 });
  });

  it('has both change places when one is chosen for the place of the other, with what is theirs', () => {
    const text = { ...pairTextOf(pair), firstPower: 'A', secondPower: 'B' };
    const turned = chosenAt(text, 'first', second.id, []);
    expect(turned).toMatchObject({ firstId: second.id, secondId: first.id, firstTracks: ['wan2'], firstPower: 'B' });
    expect(chosenAt(text, 'first', first.id, [])).toBe(text);
    const rows = gatewayRows(site, roster, null);
    const third = chosenAt({ ...text, secondId: 'gone' }, 'second', second.id, rows);
    expect(third).toMatchObject({ secondId: second.id, secondTracks: ['wan1', 'wan2'], secondPower: '' });
  });

  it('says what follows, and how both fare', () => {
    expect(addressWords({ ...site, pair }, roster)).toBe(
      'Whoever routes has the gateway addresses of 3 segments. Their own in Management: 10.1.1.2 and 10.1.1.3.',
    );
    expect(addressWords({ ...site, pair }, [first])).toMatch(/not at the site any more/);
    expect(waitWords(pair)).toContain('after 2.4 to 3.4 s');
    expect(waitWords({ ...pair, advert: 50, back: false })).toMatch(/1\.2 to 1\.7 s\. Whoever routes then goes on\./);
    const told = { state: 'active', since: 5, priority: 150, hears: false } as const;
    expect(standWords(told, 'x-gw-01', String)).toBe('routes since 5, priority 150; x-gw-01 does not answer');
    expect(standWords({ ...told, state: 'backup', hears: true }, 'x', String)).toBe('stands by since 5, priority 150');
    expect(standWords(undefined, 'x', String)).toBe('has told nothing of the pair yet');
  });
});

describe('a takeover in words', () => {
  const alone = (id: string): Omit<RehearsedGateway, 'pair'> => ({
    ...{ id, rule: { begins: 'all', back: 0 }, stay: true },
    uplinks: [{ port: 'wan1', weight: 1, standby: null, watch: USUAL_WATCH, linked: true, delay: 10, loss: 0 }],
  });
  const self = (priority: number): PairSelf => ({
    ...{ priority, lowered: priority - 100, tracks: [], any: false, address: `10.1.1.${priority === 200 ? 2 : 3}` },
  });
  const gateway: RehearsedGateway = {
    ...alone('a'),
    pair: { own: self(200), other: self(150), gateway: alone('b'), first: true, advert: 100 },
  };
  const titles = new Map([
    ['a', 'gw-a'],
    ['b', 'gw-b'],
    ['b:wan1', 'wan1 of gw-b'],
  ]);
  const off = { what: 'off', from: 30, to: 150, gatewayId: 'a', port: '' } as const;
  const [mean, worst] = [rehearse(gateway, [off], 300, 'mean'), rehearse(gateway, [off], 300, 'worst')];

  it('says who routes when, and for how long nobody does', () => {
    const words = sumWords(mean, worst, titles);
    expect(words).toMatch(
      /^gw-b routes from 33 s on, gw-a routes from 3 min on; nobody does for 2\.9 s \(at worst 3\.4 s\)\./,
    );
    expect(words).toContain('Sessions break 2 times.');
    const still = rehearse(gateway, [{ ...off, gatewayId: 'b' }], 300);
    expect(sumWords(still, still, titles)).toMatch(/^gw-a routes all along\./);
  });

  it('is a line among the failures, under the name of the gateway, with what it leaves by then', () => {
    const [line] = failureLines({ ports: [], what: 'off', mean, worst }, titles);
    expect(line).toMatchObject({ title: 'gw-a', what: 'the gateway has no power', then: 'wan1 of gw-b 100 %' });
  });

  it('that was played is told beside what was computed', () => {
    const at = (seconds: number): string => new Date(seconds * 1000).toISOString();
    const drill = {
      ...{ id: 'd', deviceId: 'a', at: at(0), by: 'Ida', mishaps: [off], predicted: mean },
      changes: [{ deviceId: 'b', at: at(33.2), port: '', what: 'took-over' as const, why: '', uses: [] }],
    };
    expect(drillWords(drill, titles, 400_000)).toMatch(
      /^gw-b routes: computed at 33 s, really at 33 s · gw-a routes: .*, not told/,
    );
  });
});
