import { matchLines } from './nftables';
import { rangeOf, type Prefix } from '../address';

/** An uplink that is kept below what it can do, as Linux is told of it. */
export interface LinuxShape {
  /** Names of its interface, and of the one to the inside, which all segments are behind. */
  readonly port: string;
  readonly inside: string;
  /** Kilobits a second. */
  readonly down: number;
  readonly up: number;
  readonly parts: readonly LinuxPart[];
}

/** What a segment gets while all are busy. */
export interface LinuxPart {
  readonly name: string;
  readonly subnet: Prefix;
  readonly weight: number;
  /** Kilobits a second that it never gets more than; null: as much as there is. */
  readonly most: { readonly down: number | null; readonly up: number | null };
}

const hex = (value: number): string => value.toString(16);
/** Classes of an uplink begin at its own; those of what is not of a segment are the last. */
const classOf = (uplink: number, part: number): string => hex(0x100 * (uplink + 1) + part + 1);
/** What somebody is given at least, whatever its weight, in kilobits a second; what a bucket holds is counted of it. */
const LEAST = 8;

/**
 * Hierarchical token buckets (sch_htb): each uplink is kept to its rate, and each segment gets its part of it while all are busy, and more while
 * others are not. What goes up waits at the uplink, what comes down at the inside. Which class a packet is of, the ruleset of `nftablesOfShapes` says.
 */
export function tcOf(shapes: readonly LinuxShape[]): string {
  const lines = ['#!/bin/sh', 'set -e'];
  for (const inside of new Set(shapes.map((each) => each.inside))) lines.push(...root(inside));
  shapes.forEach(({ port, inside, down, up, parts }, at) => {
    lines.push(
      '',
      `# ${port}`,
      ...root(port),
      ...classes(port, at, up, parts, 'up'),
      ...classes(inside, at, down, parts, 'down'),
    );
  });
  return [...lines, ''].join('\n');
}

const root = (device: string): string[] => [
  `tc qdisc del dev ${device} root 2>/dev/null || true`,
  `tc qdisc add dev ${device} root handle 1: htb`,
];

function classes(device: string, at: number, kbps: number, parts: readonly LinuxPart[], way: 'down' | 'up'): string[] {
  const own = classOf(at, -1);
  const sum = parts.reduce((total, { weight }) => total + weight, 0) || 1;
  return [
    `tc class add dev ${device} parent 1: classid 1:${own} htb rate ${kbps}kbit ceil ${kbps}kbit`,
    ...parts.map(({ weight, most }, i) => {
      const ceil = Math.min(kbps, most[way] ?? kbps);
      const rate = Math.max(LEAST, Math.min(ceil, Math.floor((kbps * weight) / sum)));
      // What is left over is parted by the quantum: as the weights are.
      const quantum = Math.max(1514, Math.round((60_000 * weight) / sum));
      return `tc class add dev ${device} parent 1:${own} classid 1:${classOf(at, i)} htb rate ${rate}kbit ceil ${ceil}kbit quantum ${quantum}`;
    }),
  ];
}

/** Says of each packet which class it is of: by the segment that it is from or to, and the uplink that it takes. */
export function nftablesOfShapes(shapes: readonly LinuxShape[]): string {
  const lines = shapes.flatMap(({ port, inside, parts }, at) =>
    parts.flatMap(({ subnet }, i) => {
      const end = `meta priority set 1:${classOf(at, i)}`;
      const range = [rangeOf(subnet)];
      const any = [{ protocol: 'any' as const }];
      return [
        ...matchLines({ source: range, destination: null, services: any }, end).map(
          (line) => `oifname "${port}" ${line}`,
        ),
        ...matchLines({ source: null, destination: range, services: any }, end).map(
          (line) => `iifname "${port}" oifname "${inside}" ${line}`,
        ),
      ];
    }),
  );
  return [
    'table inet iron_lattice_shapes',
    'delete table inet iron_lattice_shapes',
    '',
    'table inet iron_lattice_shapes {',
    '  chain forward {',
    // Before addresses are translated: afterwards nobody knows whose a packet was.
    '    type filter hook forward priority mangle; policy accept;',
    ...lines.map((line) => `    ${line}`),
    '  }',
    '}',
    '',
  ].join('\n');
}
