import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { parsePrefix } from '../src/address';
import { nftablesOfShapes, tcOf, type LinuxShape } from '../src/formats';
import { maxMin } from '../src/traffic';

const LAB = fileURLToPath(new URL('../../tools/lab/shape-lab.py', import.meta.url));

interface Part {
  readonly weight: number;
  readonly most?: { readonly down: number | null; readonly up: number | null };
}
type Way = 'down' | 'up';

/** What the kernel gives hosts of segments, one of each, that are busy: kilobits a second with IP and UDP. */
function kernelGives(
  { down, up, parts }: { readonly down: number; readonly up: number; readonly parts: readonly Part[] },
  busy: readonly (readonly [part: number, way: Way])[],
): Readonly<Record<Way, readonly number[]>> {
  const shape: LinuxShape = {
    ...{ port: 'wan1', inside: 'lan', down, up },
    parts: parts.map(({ weight, most = { down: null, up: null } }, i) => ({
      ...{ name: `Segment ${i}`, subnet: parsePrefix(`10.1.${i}.0/24`)!, weight, most },
    })),
  };
  const job = {
    ...{ script: tcOf([shape]), nft: nftablesOfShapes([shape]), port: 'wan1', inside: 'lan', busy },
    ...{ hosts: parts.map((_, i) => `10.1.${i}.7`), kbps: 2 * Math.max(down, up) },
  };
  const lab = spawnSync('/usr/bin/python3', [LAB], { input: JSON.stringify(job), encoding: 'utf8' });
  if (lab.status !== 0) throw new Error(`the lab failed: ${lab.stderr}`);
  return JSON.parse(lab.stdout) as ReturnType<typeof kernelGives>;
}

/** Beside what is counted there is a frame’s header, and what a bucket had saved up. */
const isNear = (got: number, wanted: number): boolean => Math.abs(got - wanted) <= 0.12 * wanted + 60;

test('the kernel keeps an uplink to its rate each way, and gives each segment its part while all are busy', () => {
  const parts = [{ weight: 3 }, { weight: 1 }, { weight: 2, most: { down: 500, up: null } }];
  const busy = parts.flatMap((_, i) => [[i, 'down'] as const, [i, 'up'] as const]);
  const got = kernelGives({ down: 6000, up: 2400, parts }, busy);
  for (const [way, kbps] of [
    ['down', 6000],
    ['up', 2400],
  ] as const) {
    const demands = parts.map(({ most }) => most?.[way] ?? kbps);
    const wanted = maxMin(
      kbps,
      demands,
      parts.map(({ weight }) => weight),
    );
    got[way].forEach((each, i) => expect([way, i, each, isNear(each, wanted[i]!)]).toEqual([way, i, each, true]));
    expect(got[way].reduce((sum, each) => sum + each)).toBeLessThan(kbps * 1.03);
  }
});

test('what others leave over is had by whoever is busy', () => {
  const parts = [{ weight: 3 }, { weight: 1 }];
  const { down } = kernelGives({ down: 4000, up: 1000, parts }, [[1, 'down']]);
  expect(isNear(down[1]!, 4000)).toBe(true);
  expect(down[0]).toBe(0);
});
