import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { formatIp } from '../src/address';
import { nftablesOf } from '../src/formats';
import { answerTo, judge, readTimes, type Packet, type PacketRule, type ReadRules } from '../src/rules';
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
    if (answered && random(4) === 0) out.push({ packet: answerTo(packet), answers: out.length - 1 });
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

test('a ruleset with hours, and one that decides what is sent to the gateway itself, are read by nft', () => {
  const [rule] = randomRules(3, 1, SEGMENTS);
  const rules = ['Mon-Fri 08:00-18:00', 'Sat,Sun 22:30-05:00', '00:00-24:00'].map((text, i) => ({
    ...rule!,
    id: `r${i}`,
    times: readTimes(text)!,
  }));
  const text = nftablesOf({ rules, otherwise: 'deny', stateful: true, own: true });
  expect(text).toContain(
    'meta day { "Monday", "Tuesday", "Wednesday", "Thursday", "Friday" } meta hour "08:00:00"-"17:59:59"',
  );
  expect(text).toContain('meta day { "Saturday", "Sunday" } meta hour "22:30:00"-"23:59:59"');
  expect(text).toMatch(
    /meta day \{ "Sunday", "Monday" \} meta hour "00:00:00"-"04:59:59"|meta day \{ "Monday", "Sunday" \} meta hour/,
  );
  const checked = spawnSync('nft', ['-c', '-f', '-'], {
    input: text,
    encoding: 'utf8',
    env: { ...process.env, PATH: '/usr/sbin:/usr/bin' },
  });
  expect(checked.stderr).toBe('');
  expect(checked.status).toBe(0);
});
