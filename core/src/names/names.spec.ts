import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { BELOW, BOTH, changeOf, idleEntries, ITSELF, MOST_FAULTS, NameSet, readName, readNameList, shownName } from '.';

const label = fc.stringMatching(/^[a-z0-9_](?:[a-z0-9_-]{0,8}[a-z0-9_])?$/);
/** Names of few labels out of few, so that some are below others. */
const someName = fc
  .array(fc.oneof(fc.constantFrom('a', 'b', 'gulls', 'pier', 'xn--wgv71a'), label), { minLength: 1, maxLength: 4 })
  .map((labels) => [...labels, 'example'].join('.'));
const kinds = fc.constantFrom(ITSELF, BELOW, BOTH);

describe('a name', () => {
  test.each([
    ['cards.GullPlay.example.', 'cards.gullplay.example'],
    [' bücher.example ', 'xn--bcher-kva.example'],
    ['_sip._tcp.skerrow.example', '_sip._tcp.skerrow.example'],
    ['日本.example', 'xn--wgv71a.example'],
    ['example', 'example'],
  ])('%s is %s', (text, name) => {
    expect(readName(text)).toEqual({ ok: true, name });
  });

  test.each([
    ['two words.example', 'has a blank in it'],
    ['a.*.example', 'a * stands at the very front alone'],
    ['https://gulls.example/x', 'leave out what is before it'],
    ['a..example', 'two dots'],
    ['.example', 'two dots'],
    [`${'a'.repeat(64)}.example`, 'between two dots there are 63 at most'],
    [`${'a.'.repeat(130)}example`, 'a name has 253 at most'],
    ['-a.example', '“-a” has something else'],
    ['a,b.example', 'has something else'],
    ['192.0.2.7', 'is an address'],
    ['<b>gulls.example</b>', 'is no name'],
    ['', 'There is no name'],
  ])('%s is none, and why is said', (text, words) => {
    const read = readName(text);
    expect(read.ok ? '' : read.flaw.message).toContain(words);
  });

  test('is shown in its own script', () => {
    expect(shownName('xn--bcher-kva.example')).toBe('bücher.example');
    expect(shownName('xn--.example')).toBe('xn--.example');
    expect(shownName('plain.example')).toBe('plain.example');
  });
});

describe('a set of names', () => {
  test('finds what a list that is read entry by entry finds, after whatever was added and taken out', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ name: someName, kind: kinds, out: fc.boolean() }), { maxLength: 60 }),
        fc.array(someName, { maxLength: 20 }),
        (steps, asked) => {
          const set = new NameSet();
          const plain = new Map<string, number>();
          for (const { name, kind, out } of steps) {
            const before = plain.get(name) ?? 0;
            const after = out ? before & ~kind : before | kind;
            expect(out ? set.remove(name, kind) : set.add(name, kind)).toBe(after !== before);
            plain.set(name, after);
          }
          expect(set.size).toBe([...plain.values()].filter(Boolean).length);
          expect(new Map(set.entries())).toEqual(new Map([...plain].filter(([, kind]) => kind > 0)));
          for (const name of [...asked, ...plain.keys(), ...asked.map((each) => `below.${each}`)]) {
            const labels = name.split('.');
            const met = labels
              .map((_, i) => labels.slice(i).join('.'))
              .find((each, i) => (plain.get(each) ?? 0) & (i === 0 ? ITSELF : BELOW));
            expect(set.find(name)).toEqual(met === undefined ? null : { name: met, exact: met === name });
          }
        },
      ),
    );
  });

  test('holds on to all of them while it grows, also where their numbers fall together', () => {
    const set = new NameSet();
    const names = Array.from({ length: 30_000 }, (_, i) => `${i.toString(36)}.${i % 97}.gulls.example`);
    for (const name of names) expect(set.add(name, i8(name))).toBe(true);
    for (const name of names) expect(set.kindOf(name)).toBe(i8(name));
    expect(set.size).toBe(names.length);
    expect([set.has('gulls.example'), set.has('zzzzz.1.gulls.example')]).toEqual([false, false]);
  });
  const i8 = (name: string): number => (name.length % 2 === 0 ? ITSELF : BOTH);
});

describe('a list', () => {
  const listOf = (text: string, form?: 'csv') => {
    const read = readNameList(text, form ?? null);
    if (!read.ok) throw new Error(read.reason);
    return read.list;
  };
  const namesOf = (text: string) => Object.fromEntries(listOf(text).names.entries());

  test('of a hosts file names just those', () => {
    const text =
      '# made up\r\n127.0.0.1 localhost\r\n0.0.0.0 cards.gullplay.example dice.gullplay.example # two\r\n::1 Other.Example\r\n';
    expect(listOf(text).form).toBe('hosts');
    expect(namesOf(text)).toEqual({
      'cards.gullplay.example': ITSELF,
      'dice.gullplay.example': ITSELF,
      'other.example': ITSELF,
    });
  });

  test('of a name a line means what is below it too, and with a * that alone', () => {
    const text = '\ufeffgullplay.example\n*.tern.example\n.skua.example ! why\n\n# nothing\ngullplay.example\n';
    expect(namesOf(text)).toEqual({ 'gullplay.example': BOTH, 'tern.example': BELOW, 'skua.example': BELOW });
    expect(listOf(text)).toMatchObject({ form: 'plain', again: 1, faults: 0 });
  });

  test('of a zone of response policies means what its owners say, and not what it lets pass', () => {
    const text = `$TTL 300
$ORIGIN policy.skerrow.example.
@ IN SOA ns. host. 1 2 3 4 5
@ IN NS ns.
; made up
gullplay.example IN CNAME .
*.gullplay.example 60 IN CNAME .
tern.example.policy.skerrow.example. CNAME *.
good.tern.example CNAME rpz-passthru.
24.0.2.0.192.rpz-ip CNAME .
`;
    expect(listOf(text).form).toBe('rpz');
    expect(namesOf(text)).toEqual({ 'gullplay.example': BOTH, 'tern.example': ITSELF });
  });

  test('of a table has a column for them', () => {
    const text = 'kind,Domain,since\ngames,"gullplay.example",2026\ngames,,2026\n';
    expect(listOf(text)).toMatchObject({ form: 'csv', faults: 1, flaws: [{ line: 3 }] });
    expect(namesOf(text)).toEqual({ 'gullplay.example': BOTH });
    expect([...listOf('a.example;1\nb.example;2', 'csv').names.entries()].length).toBe(2);
  });

  test('tells which lines are wrong and takes the rest', () => {
    const text = Array.from({ length: 300 }, (_, i) => (i % 2 ? `n${i}.example` : `no name ${i}`)).join('\n');
    const { names, faults, flaws } = listOf(text);
    expect([names.size, faults, flaws.length]).toEqual([150, 150, MOST_FAULTS]);
    expect(flaws[1]).toMatchObject({ line: 3, message: expect.stringContaining('has a blank') });
  });

  test.each([
    ['<!DOCTYPE html><html>gulls.example</html>', 'a page for a browser'],
    ['\n<html>', 'a page for a browser'],
    ['PK\0\0gulls', 'unpack it first'],
    ['# nothing\n', 'There is no name in it'],
    ['one two\nthree four\n', 'No line of it is a name. Line 1: '],
  ])('%j is none', (text, words) => {
    const read = readNameList(text);
    expect(read.ok ? '' : read.reason).toContain(words);
  });

  test('of more than there may be is refused before more is read', () => {
    const text = Array.from({ length: 3000 }, (_, i) => `n${i}.example`).join('\n');
    const read = readNameList(text, null, 1000);
    expect(read.ok ? '' : read.reason).toBe('A list has 1,000 names at most; this one has more, from line 1001 on.');
  });

  test('that changed tells what came and what went', () => {
    const [before, after] = ['a.example\nb.example\n*.c.example', 'b.example\nc.example\nd.example'].map(
      (text) => listOf(text).names,
    );
    expect(changeOf(before!, after!)).toEqual({
      ...{ added: 2, removed: 1 },
      some: { added: ['c.example', 'd.example'], removed: ['a.example'] },
    });
    expect(changeOf(after!, after!)).toMatchObject({ added: 0, removed: 0 });
  });

  test('has entries that say nothing new where one above them means all that', () => {
    const { names } = listOf('gullplay.example\ncards.gullplay.example\n*.a.cards.gullplay.example\ntern.example');
    expect([...idleEntries(names)]).toEqual([
      { name: 'cards.gullplay.example', under: 'gullplay.example' },
      { name: '*.a.cards.gullplay.example', under: 'cards.gullplay.example' },
    ]);
    const hosts = listOf('0.0.0.0 gullplay.example\n0.0.0.0 cards.gullplay.example').names;
    expect([...idleEntries(hosts)]).toEqual([]);
  });
});
