import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readServices } from '../rules';
import { hostNamesIn, partQuestion } from './question';

const KNOWN = {
  segment: ['Crew', 'Ticketing', 'Passengers', 'Berth 9', 'May harbour', 'The deck', 'Way to Skerry'],
  ssid: ['Skerrow Crew'],
  class: ['Gate scanners'],
  set: ['Payment hosts'],
  device: ['bm-ap-01'],
};
const PING = 'icmp 8; 58 128';
const both = (ports: string): string => `tcp ${ports}; udp ${ports}`;

describe('a question as people write it', () => {
  test.each<[string, string, string, string]>([
    ['Can Crew reach 10.20.1.7 on TCP 443?', 'Crew', '10.20.1.7', 'TCP 443'],
    ['crew to ticketing 9100', 'crew', 'ticketing', both('9100')],
    ['may passengers ping the gateway', 'passengers', 'gateway', PING],
    ['passengers → 10.12.1.1 ssh', 'passengers', '10.12.1.1', 'tcp 22'],
    ['does Crew talk to Ticketing over https and 9100', 'Crew', 'Ticketing', `tcp 443; udp 443; ${both('9100')}`],
    ['Crew, Passengers reach internet on ports 80, 443', 'Crew, Passengers', 'internet', both('80,443')],
    ['crew reaches tickets.skerrow.example dns', 'crew', 'tickets.skerrow.example', 'udp 53; tcp 53'],
    ['is crew allowed to use ticketing?', 'crew', 'ticketing', 'any'],
    ['class Gate scanners reach set Payment hosts tcp 443', 'class Gate scanners', 'set Payment hosts', 'tcp 443'],
    ['gate scanners ping bm-ap-01', 'gate scanners', 'bm-ap-01', PING],
    // Names that hold the words of a question.
    ['crew to berth 9', 'crew', 'berth 9', 'any'],
    ['crew to berth 9 ssh', 'crew', 'berth 9', 'tcp 22'],
    ['May harbour reaches crew', 'May harbour', 'crew', 'any'],
    ['the deck to way to skerry port 22', 'the deck', 'way to skerry', both('22')],
    ['way to skerry to crew', 'way to skerry', 'crew', 'any'],
    // What is no service is told as it was typed.
    ['crew reaches ticketing on carrier pigeons', 'crew', 'ticketing', 'carrier pigeons'],
  ])('%s', (text, from, to, services) => {
    expect(partQuestion(text, KNOWN)).toEqual({ from, to, services });
  });

  test.each<[string, string, string]>([
    ['May May harbour reach the deck', 'May harbour', 'The deck'],
    ['May harbour reaches harbour', 'May harbour', 'harbour'],
    ['may harbour reach May harbour', 'May harbour', 'May harbour'],
    ['the deck reaches the gateway', 'The deck', 'gateway'],
    ['the harbour reaches the deck', 'harbour', 'The deck'],
  ])('%s: of names that differ by such a word, the one as typed is meant', (text, from, to) => {
    const known = { segment: ['May harbour', 'harbour', 'The deck', 'deck'] };
    const question = partQuestion(text, known)!;
    expect([question.from, question.to].map((end) => end.toLowerCase())).toEqual(
      [from, to].map((end) => end.toLowerCase()),
    );
  });

  test.each(['hello', '', 'crew', 'to crew', 'crew reaches ', '→'])('“%s” has not both ends', (text) => {
    expect(partQuestion(text, KNOWN)).toBeNull();
  });

  test('whatever two names are, and whatever is asked of them, the question is parted into them', () => {
    const word = fc.constantFrom('to', 'May', 'ping', 'on', 'ssh', '22', 'the', 'Deck', 'reach', 'port', 'é');
    const name = fc.array(word, { minLength: 1, maxLength: 4 }).map((words) => `${words.join(' ')} Q`);
    const verb = fc.constantFrom('reach', '→', 'to', 'talk to', 'ping');
    const wanted = fc.constantFrom<[string, string]>(
      ['', 'any'],
      [' on tcp 443', 'tcp 443'],
      [' 9100', both('9100')],
      [' ssh', 'tcp 22'],
      [' with ping', PING],
    );
    fc.assert(
      fc.property(name, name, verb, wanted, fc.boolean(), (from, to, between, [said, services], can) => {
        const known = { segment: [from, to] };
        const question = partQuestion(`${can ? 'Can ' : ''}${from} ${between} ${to}${said}?`, known);
        const expected = services === 'any' && between === 'ping' ? PING : services;
        expect(question).toEqual({ from, to, services: expected });
        expect(readServices(question!.services).bad).toEqual([]);
      }),
      { seed: Number(process.env['SEED'] ?? 1), numRuns: 500 },
    );
  });

  test('any text is parted or not, quickly, and never an error', () => {
    const began = performance.now();
    for (const text of [
      `${'a to '.repeat(200)}b`,
      'x'.repeat(100_000),
      ' → '.repeat(300),
      `can ${'ping '.repeat(120)}`,
    ])
      expect(() => partQuestion(text, KNOWN)).not.toThrow();
    fc.assert(
      fc.property(fc.string({ maxLength: 80 }), (text) => {
        const question = partQuestion(text, KNOWN);
        expect(question === null || (question.from !== '' && question.to !== '')).toBe(true);
      }),
      { seed: Number(process.env['SEED'] ?? 1), numRuns: 300 },
    );
    expect(performance.now() - began).toBeLessThan(30_000);
  });
});

test('names of the DNS are told from names we know, addresses and nonsense', () => {
  expect(hostNamesIn('tickets.skerrow.example, 10.1.1.1, Crew, bm-ap-01, nowhere, a..b, 1.2', KNOWN)).toEqual([
    'tickets.skerrow.example',
  ]);
  expect(hostNamesIn('tickets.skerrow.example', { device: ['tickets.skerrow.example'] })).toEqual([]);
});
