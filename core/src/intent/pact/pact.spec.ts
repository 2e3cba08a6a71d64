import { describe, expect, test } from 'vitest';
import { ask, consequencesOf, reachMatrix, toldWays } from '../../assess';
import { parseIp } from '../../address';
import { inEffect, secretsOf, type GatewayDocument } from '../../document';
import { compileSite } from '../../rollout';
import { appliedWith, refusedWith, sampleId, sampleJoin, samplePair, sampleSite, sampleSites } from '../../testing';
import { nounOf, resolve, stepsBetween, type Intent, type Operation } from '..';
import { USUAL_LASTS, USUAL_OFFERS, type Pact } from './pact';

const sample = sampleSite({ segments: 4, aps: 1 });
const { roster } = sample;
const siteId = sample.site.id;
const [, crew, tills] = sample.site.segments as [...(typeof sample.site.segments)[number][]];
const gateway = roster.find(({ model }) => model.startsWith('GW'))!;

const PACT: Pact = {
  ...{ id: sampleId(8, 1), name: 'Wrackline', at: '203.0.113.60' },
  ...{ own: 'a.skerrow.example', other: 'moor.example', key: { secret: sampleId(8, 2) } },
  ...USUAL_OFFERS,
  ...{ segments: [crew!.id], behind: ['172.20.0.0/16'] },
};
const add = (more: Partial<Pact> = {}): Operation => ({ type: 'pact.add', siteId, pact: { ...PACT, ...more } });
const done = (...operations: Operation[]): Intent => appliedWith(roster, sample.intent, ...operations);
const refused = (operation: Operation, intent: Intent = sample.intent): string =>
  refusedWith(roster, intent, operation);
const at = (intent: Intent) => resolve(intent.estate, intent.sites.get(siteId)!);
const told = (intent: Intent) => compileSite(at(intent), roster).get(gateway.id) as GatewayDocument;
const outcomeOf = (intent: Intent) =>
  consequencesOf({
    ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster, links: sample.links, told: {} },
  });
const codes = (intent: Intent): string[] =>
  outcomeOf(intent)
    .findings.map(({ code }) => code)
    .filter((code) => code.startsWith('paths.pact'));
const asked = (intent: Intent, from: string, to: string) => {
  const question = { from, to, services: 'tcp 443' };
  const answer = ask({ site: at(intent), roster, live: null }, { question, on: 'draft', minute: null });
  if ('flaws' in answer) throw new Error(JSON.stringify(answer.flaws));
  return answer;
};

describe('a tunnel to a gateway of others', () => {
  test('is told to the gateway that routes, with what goes in, and nobody else', () => {
    const intent = done(add());
    expect(told(intent).pacts).toEqual([
      {
        ...{ name: 'Wrackline', at: '203.0.113.60', own: PACT.own, other: PACT.other, key: PACT.key },
        ...{ ike: PACT.ike, esp: PACT.esp, lasts: USUAL_LASTS, here: [crew!.subnet], there: PACT.behind },
        // AES-CBC with SHA-256, inside UDP.
        mtu: 1422,
      },
    ]);
    expect(secretsOf(told(intent))).toContain(PACT.key.secret);
    for (const [id, document] of compileSite(at(intent), roster))
      if (id !== gateway.id) expect(document).not.toHaveProperty('pacts');
    expect(told(done(add(), { type: 'pact.remove', siteId, pactId: PACT.id }))).not.toHaveProperty('pacts');
  });

  test('leads what is behind the other into it, and what is there stays dropped while it is down', () => {
    const wayTo = toldWays(told(done(add())));
    expect(wayTo(parseIp('172.20.7.9')!)).toMatchObject({ kind: 'pact', line: { name: 'Wrackline' } });
    expect(wayTo(parseIp('172.21.7.9')!)).toBeNull();
    expect(wayTo(parseIp(crew!.gateway)!)).toBeNull();
  });

  test.each<[string, Partial<Pact>, string]>([
    ['no name', { name: ' ' }, 'name: Give it a name'],
    ['an address that is none', { at: 'moor' }, 'at: “moor” is no address'],
    ['a private address', { at: '10.9.9.9' }, 'at: “10.9.9.9” is no address'],
    ['a name that is none', { own: 'two words' }, 'own: “two words” is no name'],
    ['the same name at both ends', { other: 'A.skerrow.example' }, 'other: Both have the same name'],
    ['no cipher', { ike: { ...PACT.ike, ciphers: [] } }, 'ike: Choose at least one'],
    ['an exchange without a group', { ike: { ...PACT.ike, groups: [] } }, 'ike: The exchange needs a group'],
    ['AES-CBC without a hash', { esp: { ...PACT.esp, hashes: [] } }, 'esp: AES-CBC and 3DES need'],
    ['something twice', { esp: { ...PACT.esp, groups: ['31', '31'] } }, 'esp: Something is there twice'],
    ['keys that last a second', { lasts: { ike: 1, esp: 1 } }, 'lasts: Keys last 300'],
    ['packets that outlast the exchange', { lasts: { ike: 600, esp: 900 } }, 'lasts: Keys of packets last no longer'],
    ['nothing that goes in', { segments: [] }, 'segments: Say which segments'],
    ['a segment that is not there', { segments: [sampleId(9, 9)] }, 'segments: A segment of these'],
    ['nothing behind it', { behind: [] }, 'behind: Say which networks'],
    ['no prefix', { behind: ['moor'] }, 'behind: “moor” is no prefix'],
    ['everything', { behind: ['0.0.0.0/0'] }, 'behind: Everything does not'],
    ['a segment of ours behind it', { behind: [tills!.subnet] }, `behind: ${tills!.subnet} overlaps`],
    [
      'the same twice',
      { behind: ['172.20.0.0/16', '172.20.4.0/24'] },
      'behind: 172.20.4.0/24 overlaps 172.20.0.0/16 of “another line”',
    ],
    [
      'the other gateway inside its own tunnel',
      { behind: ['203.0.113.0/24'] },
      'behind: 203.0.113.60 is in 203.0.113.0/24',
    ],
  ])('%s is refused', (_what, more, words) => {
    expect(refused(add(more))).toContain(words);
  });

  test('two to one address or of one name are refused, and networks that two lead to', () => {
    const intent = done(add());
    const second = { id: sampleId(8, 3), name: 'Second', at: '203.0.113.61', behind: ['172.30.0.0/16'] };
    expect(refused(add({ ...second, name: 'wrackline' }), intent)).toContain('name: Sample has a tunnel');
    expect(refused(add({ ...second, at: '203.0.113.60' }), intent)).toContain('leads to 203.0.113.60 already');
    expect(refused(add({ ...second, behind: ['172.20.9.0/24'] }), intent)).toContain('of “Wrackline”');
    // A tunnel inside a tunnel, said from either end.
    expect(refused(add({ ...second, behind: ['203.0.113.0/26'] }), intent)).toContain(
      'behind: The gateway of “Wrackline” is in',
    );
    const wide = done(add({ at: '198.51.100.60', behind: ['203.0.113.0/24'] }));
    expect(refused(add(second), wide)).toContain('at: 203.0.113.61 is behind “Wrackline”');
    expect(done(add(), add(second)).sites.get(siteId)!.pacts).toHaveLength(2);
  });

  test('a segment that goes in stays until it is taken out', () => {
    const remove: Operation = { type: 'segment.remove', siteId, segmentId: crew!.id };
    expect(refused(remove, done(add()))).toContain('goes into the tunnel “Wrackline”');
  });

  test('a key that guessers find is refused, and what nobody could type', () => {
    const [use] = nounOf(add()).secrets!(add());
    for (const bad of ['short', 'x'.repeat(121), 'with a blank in it', 'with"quotes"in-it-yes', 'kelpkelpkelpkelé'])
      expect(use!.check(bad)).toHaveLength(1);
    expect(use!.check('kelp-and-limpet-27!')).toEqual([]);
  });

  test('the other of a pair of gateways is told of it as well, and keeps none while it stands by', () => {
    const pair = samplePair();
    const [own] = pair.site.segments.slice(1);
    const pact: Operation = { type: 'pact.add', siteId: pair.site.id, pact: { ...PACT, segments: [own!.id] } };
    const intent = appliedWith(pair.roster, pair.intent, pact, pair.made);
    const documents = compileSite(resolve(intent.estate, intent.sites.get(pair.site.id)!), pair.roster);
    const keeps = (role: 'first' | 'second'): boolean[] =>
      [pair.first, pair.second].map(({ id }) => 'pacts' in inEffect(documents, role).get(id)!);
    for (const { id } of [pair.first, pair.second]) expect(documents.get(id)).toHaveProperty('pacts');
    expect([keeps('first'), keeps('second')]).toEqual([
      [true, false],
      [false, true],
    ]);
  });

  test('going back is one step', () => {
    const [before, after] = [sample.intent.sites.get(siteId)!, done(add()).sites.get(siteId)!];
    expect(stepsBetween(after, before)).toEqual([{ type: 'pact.remove', siteId, pactId: PACT.id }]);
    expect(stepsBetween(before, after)).toEqual([add()]);
  });
});

describe('what is said before either gateway has called', () => {
  const word = (more: Partial<NonNullable<Pact['says']>>): Partial<Pact> => ({
    says: {
      ...{ ike: PACT.ike, esp: PACT.esp, own: PACT.other, other: PACT.own },
      ...{ there: PACT.behind, here: [crew!.subnet] },
      ...more,
    },
  });

  test.each<[string, Partial<Pact>, readonly string[]]>([
    ['nothing, where all goes together', {}, []],
    ['no suite of the exchange', word({ ike: { ...PACT.ike, groups: ['16'] } }), ['paths.pact-offers']],
    ['another name', word({ own: 'gw.moor.example' }), ['paths.pact-names']],
    ['ours under another name', word({ other: 'b.skerrow.example' }), ['paths.pact-names']],
    [
      'no suite of packets',
      word({ esp: { ciphers: ['chacha20-poly1305'], hashes: [], groups: ['31'] } }),
      ['paths.pact-packets'],
    ],
    ['no group for packets', word({ esp: { ...PACT.esp, groups: [] } }), ['paths.pact-late']],
    ['nothing in common that goes in', word({ there: ['172.25.0.0/16'] }), ['paths.pact-whose']],
    ['less than is said', word({ there: ['172.20.0.0/24'] }), ['paths.pact-narrowed']],
    ['poor ciphers', { esp: { ...PACT.esp, ciphers: ['aes-gcm-256', '3des'] } }, ['paths.pact-poor']],
    ['who calls finds nobody', { at: null }, ['paths.pact-unfound']],
  ])('%s', (_what, more, expected) => {
    expect(codes(done(add(more)))).toEqual(expected);
  });

  test('a segment that comes to lie behind it too', () => {
    const to = { subnet: '172.20.5.0/24', gateway: '172.20.5.1' };
    const from = { subnet: tills!.subnet, gateway: tills!.gateway };
    const moved: Operation = { type: 'segment.set', siteId, segmentId: tills!.id, from, to };
    expect(
      codes(
        done(add(), {
          ...moved,
          from: { ...from, addresses: tills!.addresses },
          to: { ...to, addresses: null },
        }),
      ),
    ).toContain('paths.pact-overlap');
  });

  test('a joined site that has the same networks', () => {
    const many = sampleSites({ sites: 3, segments: 2 });
    const [first, second] = many.siteIds as [string, string];
    const other = many.intent.sites.get(second)!.segments[1]!;
    const own = many.intent.sites.get(first)!.segments[1]!;
    const pact = { ...PACT, segments: [own.id], behind: [other.subnet] };
    const intent = appliedWith(many.roster, many.intent, ...sampleJoin(1, 2), {
      type: 'pact.add',
      siteId: first,
      pact,
    });
    const { findings } = consequencesOf({
      ...{ estate: intent.estate, site: intent.sites.get(first)!, links: [], told: {} },
      roster: many.roster.filter((each) => each.siteId === first),
    });
    expect(findings.find(({ code }) => code === 'paths.pact-overlap')?.reason).toContain(other.subnet);
  });
});

describe('answers know what goes in', () => {
  test('a question goes there where both carry it, and ends where they do not', () => {
    const intent = done(add());
    const there = asked(intent, crew!.name, '172.20.7.9');
    expect(there.reach).toBe('all');
    expect(there.there.map(({ at: where, passed }) => [where, passed])).toEqual([
      [gateway.name, true],
      [gateway.name, true],
      ['Wrackline', true],
    ]);
    expect(there.there.at(-1)!.detail).toContain('Assumed');
    const other = asked(intent, tills!.name, '172.20.7.9');
    expect(other.reach).toBe('none');
    expect(other.there.at(-1)).toMatchObject({ at: 'Wrackline', passed: false });
  });

  test('a router of the same name is told apart from it', () => {
    const routers: Operation = {
      ...{ type: 'router.add', siteId },
      router: { id: sampleId(8, 7), name: 'Wrackline', ownWayOut: true, behind: ['172.31.0.0/16'] },
    };
    const { there } = asked(done(add(), routers), '172.31.0.9', '172.31.0.10');
    expect(there.at(-1)).toMatchObject({
      at: 'Wrackline',
      detail: 'Assumed: it lets pass whatever nothing is said of.',
    });
  });

  test('it may be asked from behind the other gateway, and rules of the site stop it all the same', () => {
    expect(asked(done(add()), '172.20.7.9', crew!.name).reach).toBe('all');
    const stop: Operation = {
      ...{ type: 'rule.add', siteId, behind: null },
      rules: [
        {
          ...{ id: sampleId(8, 9), verdict: 'deny', services: [{ protocol: 'any' }] },
          ...{ from: [{ kind: 'addresses', text: '172.20.0.0/16' }], to: [{ kind: 'any' }] },
        },
      ],
    };
    const stopped = asked(done(add(), stop), '172.20.7.9', crew!.name);
    expect([stopped.reach, stopped.there.at(-1)!.at]).toEqual(['none', gateway.name]);
  });

  test('where the two would not agree nothing gets there', () => {
    const says = { ...PACT, own: PACT.other, other: PACT.own, there: PACT.behind, here: [crew!.subnet] };
    const intent = done(
      add({
        says: {
          ike: { ...PACT.ike, groups: ['16'] },
          esp: says.esp,
          own: says.own,
          other: says.other,
          there: says.there,
          here: says.here,
        },
      }),
    );
    const answer = asked(intent, crew!.name, '172.20.7.9');
    expect([answer.reach, answer.there.at(-1)!.detail]).toEqual(['none', expect.stringContaining('no agreement')]);
  });

  test('what sites reach of each other is as it was', () => {
    const cells = (intent: Intent) => reachMatrix({ site: at(intent), roster, live: null }, null).draft;
    expect(cells(done(add()))).toEqual(cells(sample.intent));
  });
});
