import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { RulesFileError, judge, readRulesFile } from './rules-file';
import { readEnd, writeEnd } from './rule-text';

/** The examples of the document that describes the format. */
const examples = [
  ...readFileSync(fileURLToPath(new URL('../../../docs/rules-file.md', import.meta.url)), 'utf8').matchAll(
    /```json\n([\s\S]*?)```/g,
  ),
].map((match) => JSON.parse(match[1]!) as { verdicts: unknown });

test('the example of the description is judged as the description says', () => {
  expect(judge(readRulesFile(examples[0]))).toEqual(examples[1]!.verdicts);
});

const file = (more: object) => ({
  format: 'iron-lattice.rules/1',
  segments: [
    { name: 'Crew', prefixes: ['10.12.10.0/24'] },
    { name: 'Six', prefixes: ['fd00:1::/64'] },
  ],
  sets: [
    { name: 'Empty' },
    { name: 'Web', ports: ['80', '443'] },
    { name: 'Ring', sets: ['Middle'] },
    { name: 'Middle', sets: ['Ring'] },
    { name: 'Wrong', addresses: ['10.0.0.9-10.0.0.1'] },
    { name: 'All', sets: ['Web', 'Hosts'] },
    { name: 'Hosts', addresses: ['10.12.20.4', '10.12.20.6-10.12.20.7'] },
  ],
  ...more,
});
const flawsOf = (rule: object): string[] => {
  try {
    readRulesFile(file({ rules: [{ id: 'r', verdict: 'allow', ...rule }] }));
    return [];
  } catch (error) {
    if (!(error instanceof RulesFileError)) throw error;
    return error.flaws.map(({ of, field, message }) => `${of} ${field}: ${message}`);
  }
};

test('a name that is given twice is refused: it would stand for one of the two', () => {
  const file = { format: 'iron-lattice.rules/1', rules: [{ verdict: 'allow' }] };
  const segment = { name: 'Crew', prefixes: ['10.1.0.0/24'] };
  expect(() => readRulesFile({ ...file, segments: [segment, segment] })).toThrow('there are two segments Crew');
  expect(() => readRulesFile({ ...file, sets: [{ name: 'A' }, { name: 'A' }] })).toThrow('there are two sets A');
});

test('the internet holds no address that RFC 6890 takes out of it', () => {
  const packets = ['198.18.0.1', '198.19.255.255', '192.0.0.9', '192.0.1.1', '203.0.113.9', '100.64.0.1'].map((to) => ({
    from: '10.1.0.1',
    to,
    protocol: 'tcp',
    port: 443,
  }));
  const rules = [{ verdict: 'allow', to: 'internet' }];
  const read = readRulesFile({ format: 'iron-lattice.rules/1', rules, packets });
  expect(judge(read).map(({ verdict }) => verdict)).toEqual(['deny', 'deny', 'deny', 'allow', 'allow', 'deny']);
});

test('nobody answers a message that asks for no answer', () => {
  const packets = [{ from: '10.1.0.1', to: '10.2.0.1', protocol: 'icmp', type: 3 }, { answers: 0 }];
  expect(() => readRulesFile({ format: 'iron-lattice.rules/1', rules: [{ verdict: 'allow' }], packets })).toThrow(
    'packet 1: packet 0 asks for no answer',
  );
});

test.each([
  [{ to: 'set Ring' }, 'Ring sets: Ring contains itself: Ring → Middle → Ring.'],
  [{ to: 'set Empty' }, 'The set Empty holds no addresses: the rule would match nothing.'],
  [{ to: 'set Nowhere' }, 'There is no set Nowhere.'],
  [{ to: 'set Wrong' }, '10.0.0.9-10.0.0.1 is no address, prefix or range from low to high.'],
  [{ from: 'segment Attic' }, 'There is no segment Attic.'],
  [{ from: '10.0.0.300' }, '10.0.0.300 is no address, prefix or range from low to high.'],
  [{ from: 'segment Crew', to: 'segment Six' }, 'One end is IPv4 and the other IPv6: no packet has both.'],
  [{ services: [{ protocol: 'icmp', ports: ['80'] }] }, 'Only TCP and UDP have ports.'],
  [
    { services: [{ protocol: 'tcp', ports: ['90-80'] }] },
    '90-80 is no port from 0 to 65535, nor a range from low to high.',
  ],
  [
    { services: [{ protocol: 'tcp', ports: ['set Hosts'] }] },
    'The set Hosts holds no ports: the rule would match nothing.',
  ],
  [{ services: [{ protocol: 'tcp', type: 8 }] }, 'Only ICMP has types.'],
])('%j is refused with the place and the reason', (rule, reason) => {
  const flaws = flawsOf(rule);
  expect(flaws).toHaveLength(1);
  expect(flaws[0]).toContain(reason.replace(/^Ring sets: /, ''));
});

test('sets stand for all that they hold, nested ones too', () => {
  const packets = ['10.12.20.4', '10.12.20.5', '10.12.20.7'].flatMap((to) =>
    [80, 81].map((port) => ({ from: '10.12.10.4', to, protocol: 'tcp', port })),
  );
  const rules = [{ verdict: 'allow', to: 'set All', services: [{ protocol: 'tcp', ports: ['set All'] }] }];
  const verdicts = judge(readRulesFile(file({ rules, packets }))).map(({ verdict }) => verdict);
  expect(verdicts).toEqual(['allow', 'deny', 'deny', 'deny', 'allow', 'deny']);
});

test('rules that are off decide nothing, and answers follow only where state is kept', () => {
  const rules = [
    { id: 'off', verdict: 'deny', off: true },
    { id: 'on', verdict: 'allow', from: 'segment Crew', to: 'internet' },
  ];
  const packets = [
    { from: '10.12.10.4', to: '198.51.100.7', protocol: 'udp', port: 53, sourcePort: 5000 },
    { answers: 0 },
    { from: '10.12.10.4', to: '10.9.9.9', protocol: 'udp', port: 53 },
  ];
  const said = (state: string) =>
    judge(readRulesFile(file({ rules, packets, state }))).map(({ verdict, why }) => `${verdict} ${why}`);
  expect(said('stateful')).toEqual(['allow rule', 'allow answer', 'deny otherwise']);
  expect(said('stateless')).toEqual(['allow rule', 'deny otherwise', 'deny otherwise']);
});

test('ends are written as they are read', () => {
  for (const text of ['any', 'private', 'internet', 'segment Berth sensors', 'set Print', '10.0.0.0/8'])
    expect(writeEnd(readEnd(text))).toBe(text);
});
