import { expect, test } from 'vitest';
import { randomRules } from '../testing';
import { packetRuleOf, policyRule, PolicyBook, type PolicyDocument } from './policy';
import { Decider } from './decider';
import { firstMatch } from './packet-rule';
import { aimedPackets } from '../testing';
import { readEnds, readServices, writeEnds, writeServices } from './rule-text';
import { momentsOf } from './moment';
import { isInForce, minuteOfWeek, minutesOf, minuteWords, readTimes, writeTimes } from './week';

const seed = Number(process.env['SEED'] ?? 1);

test('ends are read as they are typed, names alone where they are known, and written so that they read the same', () => {
  const text = 'any, segment Crew, ssid Deck, device gw-01, "set A, B", 10.0.0.0/8, 10.1.0.1-10.1.0.9, controller';
  const ends = readEnds(text);
  expect(ends.map(({ kind }) => kind)).toEqual([
    'any',
    'segment',
    'ssid',
    'device',
    'set',
    'addresses',
    'addresses',
    'controller',
  ]);
  expect(readEnds(writeEnds(ends))).toEqual(ends);
  expect(readEnds('crew\nPrinters', { segment: ['Crew'], set: ['Crew', 'Printers'] })).toEqual([
    { kind: 'segment', name: 'Crew' },
    { kind: 'set', name: 'Printers' },
  ]);
});

test('services are read as they are typed; what is none is said', () => {
  const text = 'any; tcp 80,443; udp 53 from 1024-65535; icmp 3/4; icmp 8; 47; tcp set Web; "udp set A; B"';
  const { services, bad } = readServices(text);
  expect(bad).toEqual([]);
  expect(readServices(writeServices(services)).services).toEqual(services);
  expect(services[2]).toEqual({ protocol: 'udp', ports: ['53'], sourcePorts: ['1024-65535'] });
  expect(readServices('tcp 70000; tcp 90-80; icmp 300; 256; ftp; tcp').bad).toEqual([
    'tcp 70000',
    'tcp 90-80',
    'icmp 300',
    '256',
    'ftp',
  ]);
});

test('a week: hours over midnight go on the day after, and each different state has its moment', () => {
  const night = readTimes('Fri-Sun 22:00-05:00')!;
  expect(writeTimes(night)).toBe('Fri-Sun 22:00-05:00');
  expect(minutesOf(night).reduce((sum, { from, to }) => sum + to - from, 0)).toBe(3 * 7 * 60);
  const at = (text: string): number => Date.parse(`2026-11-${text}Z`);
  // 2026-11-23 is a Monday; Dublin is on UTC then.
  expect(minuteWords(minuteOfWeek(at('23T04:59:00'), 'Europe/Dublin'))).toBe('Mon 04:59');
  expect(isInForce(night, minuteOfWeek(at('23T04:59:00'), 'Europe/Dublin'))).toBe(true);
  expect(isInForce(night, minuteOfWeek(at('23T05:00:00'), 'Europe/Dublin'))).toBe(false);
  expect(isInForce(night, minuteOfWeek(at('23T04:30:00'), 'Europe/Athens'))).toBe(false);
  const office = readTimes('Mon-Fri 08:00-18:00')!;
  expect(momentsOf([{ times: night }, { times: office }, {}]).map(minuteWords)).toEqual([
    'Mon 00:00',
    'Mon 05:00',
    'Mon 08:00',
  ]);
  expect(readTimes('08:00-18:00')).toEqual([{ days: [1, 2, 3, 4, 5, 6, 7], from: '08:00', to: '18:00' }]);
  for (const bad of ['Mon', 'Mon 25:00-26:00', 'Xyz 08:00-09:00', '08:00-08:00', 'Mon 24:00-08:00'])
    expect(readTimes(bad)).toBeNull();
});

test('a policy decides every packet as the rules it was written from do', () => {
  for (let round = 0; round < 8; round++) {
    const rules = randomRules(seed * 100 + round, 30, 5);
    const policy: PolicyDocument = {
      otherwise: 'deny',
      rules: rules.map((rule) => policyRule(rule, { name: rule.id })),
    };
    const read = JSON.parse(JSON.stringify(policy)) as PolicyDocument;
    const back = read.rules.map(packetRuleOf);
    const decider = new PolicyBook().open('site', read).at(0);
    for (const packet of aimedPackets(seed * 100 + round, rules, 150, 5)) {
      const due = firstMatch(rules, packet)?.id ?? null;
      expect(firstMatch(back, packet)?.id ?? null).toBe(due);
      expect(decider.decide(packet)?.id ?? null).toBe(due);
    }
  }
});

test('a book that follows edits answers as a new one does, at every moment of the week', () => {
  const book = new PolicyBook(2);
  const rules = randomRules(seed, 40, 4);
  const night = readTimes('22:00-05:00')!;
  let list = rules.map((rule, i) => policyRule(rule, { name: rule.id, times: i % 7 === 0 ? night : undefined }));
  for (let round = 0; round < 12; round++) {
    list =
      round % 3 === 0
        ? list.toReversed()
        : round % 3 === 1
          ? list.toSpliced(round, 1)
          : [...list.slice(5), ...list.slice(0, 5)];
    const policy: PolicyDocument = { otherwise: 'allow', rules: list };
    const open = book.open('site', policy);
    expect(open.moments).toEqual([0, 300]);
    for (const minute of open.moments) {
      const inForce = list.filter(({ times }) => isInForce(times, minute)).map(packetRuleOf);
      const plain = new Decider(inForce);
      for (const packet of aimedPackets(round, rules, 40, 4))
        expect(open.at(minute).decide(packet)?.id).toBe(plain.decide(packet)?.id);
    }
  }
});
