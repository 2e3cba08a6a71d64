import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { formatIp } from '../src/address';
import { nftablesOf } from '../src/formats';
import {
  answerTo,
  clockPeriods,
  appliesAtMoment,
  judge,
  momentAt,
  readTimes,
  type Packet,
  type PacketRule,
  type ReadRules,
} from '../src/rules';
import { aimedPackets, randomFrom, randomRules, rulePrefix } from '../src/testing';

const LAB = fileURLToPath(new URL('../../tools/lab/packet-lab.py', import.meta.url));
const seed = Number(process.env['SEED'] ?? 1);
const SEGMENTS = 6;

/** What the kernel does with each packet. */
function kernelVerdicts(read: ReadRules): string[] {
  const legs = [
    ...Array.from({ length: SEGMENTS }, (_, i) => ({ name: `s${i}`, prefixes: [rulePrefix(i, 4), rulePrefix(i, 6)] })),
    { name: 'out', prefixes: ['0.0.0.0/0', '::/0'] },
  ];
  const packets = read.packets.map(({ packet, answers }, i) => ({
    from: formatIp({ version: packet.version, value: packet.source }),
    to: formatIp({ version: packet.version, value: packet.destination }),
    protocol: packet.protocol,
    ...(packet.port === undefined ? {} : { port: packet.port, sourcePort: packet.sourcePort }),
    ...(packet.type === undefined ? {} : { type: packet.type, code: packet.code }),
    ...(answers === null ? {} : { answer: true }),
    identifier: (answers ?? i) & 0xffff,
  }));
  const input = JSON.stringify({ nft: nftablesOf(read), legs, packets });
  const lab = spawnSync('/usr/bin/python3', [LAB], { input, encoding: 'utf8', maxBuffer: 1 << 26 });
  if (lab.status !== 0) throw new Error(`the lab failed: ${lab.stderr}`);
  return JSON.parse(lab.stdout) as string[];
}

const words = (packet: Packet): string =>
  JSON.stringify(packet, (key, value: unknown) =>
    typeof value === 'bigint' ? formatIp({ version: packet.version, value }) : value,
  );

/** Packets aimed at the rules, some of them followed by the answer; no two are of one conversation by accident. */
function conversations(number: number, rules: readonly PacketRule[], count: number): ReadRules['packets'] {
  const random = randomFrom(number);
  const out: { packet: Packet; answers: number | null }[] = [];
  const seen = new Set<string>();
  for (const packet of aimedPackets(number, rules, count, SEGMENTS)) {
    const { source, destination, protocol, port, sourcePort, type } = packet;
    const ends = [`${source} ${sourcePort ?? type}`, `${destination} ${port ?? type}`].sort();
    const key = `${protocol} ${ends.join(' ')}`;
    // Protocols without ports are one conversation for each pair of ends.
    if (seen.has(key) || source === destination) continue;
    seen.add(key);
    out.push({ packet, answers: null });
    // Of SCTP the kernel follows the association itself, which one forged packet and its mirror image are not.
    const answered = protocol !== 132 && (type === undefined || type === (packet.version === 4 ? 8 : 128));
    const answer = answered && random(4) === 0 ? answerTo(packet) : null;
    if (answer) out.push({ packet: answer, answers: out.length - 1 });
  }
  return out;
}

test.each([0, 1, 2, 3].map((round) => [seed * 10 + round, round % 2 === 0 ? 'stateful' : 'stateless'] as const))(
  'rulebook %i, %s: the kernel lets through what core does, at the edges of every rule',
  (number, state) => {
    const rules = randomRules(number, 20 + (number % 4) * 15, SEGMENTS);
    const packets = conversations(number, rules, 700);
    const read: ReadRules = {
      rules,
      packets,
      stateful: state === 'stateful',
      otherwise: number % 3 === 0 ? 'allow' : 'deny',
    };
    const [ours, theirs] = [judge(read), kernelVerdicts(read)];
    expect(packets.length).toBeGreaterThan(500);
    const wrong = packets.flatMap(({ packet }, i) =>
      ours[i]!.verdict === theirs[i]
        ? []
        : [
            `${words(packet)}: core says ${ours[i]!.verdict} by ${ours[i]!.rule ?? ours[i]!.why}, the kernel ${theirs[i]}`,
          ],
    );
    expect(wrong).toEqual([]);
    expect(new Set(theirs)).toEqual(new Set(['allow', 'deny']));
  },
);

test('the lab tells a ruleset that differs in one port from what core says', () => {
  const rules: PacketRule[] = [
    {
      id: 'web',
      verdict: 'allow',
      source: null,
      destination: null,
      services: [{ protocol: 'tcp', ports: [{ first: 443, last: 443 }] }],
    },
  ];
  const packet: Packet = {
    version: 4,
    source: 0x0a140005n,
    destination: 0x0a140105n,
    protocol: 6,
    port: 443,
    sourcePort: 40_000,
  };
  const read: ReadRules = { rules, packets: [{ packet, answers: null }], stateful: true, otherwise: 'deny' };
  expect(kernelVerdicts(read)).toEqual(['allow']);
  expect(kernelVerdicts({ ...read, packets: [{ packet: { ...packet, port: 444 }, answers: null }] })).toEqual(['deny']);
});

const nft = (text: string, zone: string, ...options: string[]) =>
  spawnSync('nft', ['-c', ...options, '-f', '-'], {
    input: text,
    encoding: 'utf8',
    env: { ...process.env, TZ: zone, PATH: '/usr/sbin:/usr/bin' },
  });
const timed = (...texts: string[]) => {
  const [rule] = randomRules(3, 1, SEGMENTS);
  return texts.map((text, i) => ({
    ...rule!,
    services: [{ protocol: 'any' as const }],
    id: `r${i}`,
    times: readTimes(text)!,
  }));
};

test('a ruleset with hours, and one that decides what is sent to the gateway itself, are read by nft, in every zone as one', () => {
  const rules = timed('Mon-Fri 08:00-18:00', 'Sat,Sun 22:30-05:00', '00:00-24:00');
  const clock = {
    timeZone: 'Europe/Dublin',
    periods: clockPeriods('Europe/Dublin', Date.parse('2026-11-27T12:00:00Z')),
  };
  const text = nftablesOf({ rules, otherwise: 'deny', stateful: true, own: true, clock });
  expect(text).toContain(`meta time < ${Date.parse('2027-03-28T01:00:00Z') / 1000}`);
  expect(text).toContain('# They follow its clock until 2028-01-01 00:00 UTC. Write this file anew before that.');
  const bytecode = ['UTC', 'America/Los_Angeles', 'America/New_York', 'Pacific/Auckland'].map((zone) => {
    const checked = nft(text, zone, '--debug=netlink');
    expect([checked.stderr, checked.status]).toEqual(['', 0]);
    return checked.stdout;
  });
  expect(bytecode[0]).toContain('meta load hour');
  expect(new Set(bytecode).size).toBe(1);
});

const DAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'];

/** When a line of ours is in force, as the kernel reads it: day, hour and time in UTC. */
function kernelHours(line: string): (seconds: number) => boolean {
  const number = (pattern: RegExp): number[] | null => pattern.exec(line)?.slice(1).map(Number) ?? null;
  const [from] = number(/meta time >= (\d+)/) ?? [0];
  const [to] = number(/meta time < (\d+)/) ?? [Infinity];
  const [first, last] = number(/meta hour (\d+)-(\d+)/) ?? [0, 86_399];
  const named = /meta day \{([^}]*)\}/.exec(line)?.[1];
  const shut = [...(/meta time != (?:\{ ([^}]*) \}|(\S+))/.exec(line)?.slice(1) ?? [])]
    .flatMap((text) => (text ? text.split(', ') : []))
    .map((text) => text.split('-').map(Number));
  const days = DAYS.map((day) => !named || named.includes(`"${day}"`));
  return (seconds) => {
    const ofDay = seconds % 86_400;
    if (shut.some(([first, last]) => seconds >= first! && seconds <= last!)) return false;
    if (seconds < from! || seconds >= to! || ofDay < first! || ofDay > last!) return false;
    return days[new Date(seconds * 1000).getUTCDay()]!;
  };
}

test.each([
  'UTC',
  'Europe/Dublin',
  'America/Los_Angeles',
  'America/New_York',
  'Pacific/Auckland',
  'Pacific/Apia',
  'Asia/Kolkata',
  'Australia/Lord_Howe',
])('hours are the site’s in %s, over a year with its clock put forward and back', (timeZone) => {
  const now = Date.parse('2026-11-27T12:00:00Z');
  // Days that are left out: one alone, and some, the days on which clocks change in Europe among them.
  const closed = ['2026-12-25', '2027-01-01', '2027-03-28', '2027-10-31'];
  const week = 'Mon-Fri 08:00-18:00; Sun 22:30-05:00; Sat 00:00-24:00';
  const rules = timed(week, week).map((rule, i) => ({ ...rule, closed: i === 0 ? closed : closed.slice(0, 1) }));
  const text = nftablesOf({
    rules,
    otherwise: 'deny',
    stateful: true,
    clock: { timeZone, periods: clockPeriods(timeZone, now) },
  });
  const checked = nft(text, 'UTC');
  expect([checked.stderr, checked.status]).toEqual(['', 0]);
  const hours = rules.map(({ id }) =>
    text
      .split('\n')
      .filter((line) => line.includes(`comment "${id}"`))
      .map(kernelHours),
  );
  let wrong = 0;
  for (let at = now / 1000; at < now / 1000 + 395 * 86_400; at += 7 * 60 * 60 + 60) {
    const moment = momentAt(at * 1000, timeZone);
    for (const [i, rule] of rules.entries())
      if (appliesAtMoment(rule, moment) !== hours[i]!.some((inForce) => inForce(at))) wrong++;
  }
  expect(hours.every(({ length }) => length > 0)).toBe(true);
  expect(wrong).toBe(0);
});

test('a comment is cut between characters, by the octets that nft takes', () => {
  const [rule] = randomRules(3, 1, SEGMENTS);
  const text = nftablesOf({
    rules: [{ ...rule!, id: `Fáilte ${'渡船'.repeat(40)} 👩‍🚀`.repeat(2) }],
    otherwise: 'deny',
    stateful: true,
  });
  const checked = nft(text, 'UTC');
  expect([checked.stderr, checked.status]).toEqual(['', 0]);
  expect(Buffer.byteLength(/comment "([^"]*)"/.exec(text)![1]!)).toBeLessThanOrEqual(120);
  expect(text).not.toContain('\ufffd');
});
