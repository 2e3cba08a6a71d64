import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  checkWindow,
  compareVersions,
  firmwareState,
  holdsLine,
  isInWindow,
  isVersion,
  newestOf,
  nextWindow,
  updateSteps,
  windowWords,
  type FirmwareRelease,
} from '.';

const release = (version: string, more: Partial<FirmwareRelease> = {}): FirmwareRelease => ({
  model: 'AP-6',
  version,
  releasedOn: '2026-01-01',
  notes: '',
  minimumPrevious: null,
  unsupported: false,
  holdsLine: true,
  ...more,
});
const CATALOGUE = [
  release('3.9.4', { unsupported: true, holdsLine: false }),
  release('4.3.0'),
  release('4.10.0', { minimumPrevious: '4.0.0' }),
  release('5.0.0', { minimumPrevious: '4.10.0' }),
  release('9.0.0', { model: 'SW-8P' }),
];

describe('versions', () => {
  test.each([
    ['4.10.0', '4.9.2', 1],
    ['4.3', '4.3.0', 0],
    ['5.0.0-rc1', '5.0.0', -1],
    ['5.0.0-rc2', '5.0.0-rc1', 1],
    ['10', '9.9.9', 1],
  ])('%s beside %s', (a, b, sign) => {
    expect(Math.sign(compareVersions(a, b))).toBe(sign);
    expect(Math.sign(compareVersions(b, a)) + sign).toBe(0);
  });

  test('are numbers parted by dots, with a mark at most', () => {
    expect(['4.3.0', '4.3', '5.0.0-rc1'].every(isVersion)).toBe(true);
    expect(['', '4', 'v4.3', '4.3.0 beta', '4..3'].some(isVersion)).toBe(false);
  });
});

describe('releases', () => {
  test.each([
    ['5.0.0', 'current'],
    ['6.1.0', 'current'],
    ['4.3.0', 'older'],
    ['4.4.0', 'older'],
    ['3.9.4', 'unsupported'],
    ['1.0.0', 'unsupported'],
  ])('a device that runs %s is %s', (running, state) => {
    expect(firmwareState(CATALOGUE, 'AP-6', running)).toBe(state);
  });

  test('of a model that is not in the catalogue nothing is said', () => {
    expect(firmwareState(CATALOGUE, 'GW-4', '1.0.0')).toBe('unlisted');
    expect(newestOf(CATALOGUE, 'GW-4')).toBeUndefined();
  });

  test.each([
    ['3.9.4', false],
    ['3.0.0', false],
    ['4.0.0', true],
    ['4.3.0', true],
  ])('a device that runs %s holds the line: %s', (running, holds) => {
    expect(holdsLine(CATALOGUE, 'AP-6', running)).toBe(holds);
  });

  const stepsFrom = (running: string, target: string) =>
    updateSteps(CATALOGUE, 'AP-6', running, target)?.map((step) => step.version);
  test('a target is reached by the fewest steps that each allow the next', () => {
    expect(stepsFrom('4.10.0', '5.0.0')).toEqual(['5.0.0']);
    expect(stepsFrom('4.3.0', '5.0.0')).toEqual(['4.10.0', '5.0.0']);
    expect(stepsFrom('3.9.4', '5.0.0')).toEqual(['4.3.0', '4.10.0', '5.0.0']);
    expect(stepsFrom('5.0.0', '5.0.0')).toEqual([]);
    expect(stepsFrom('5.0.0', '4.3.0')).toEqual(['4.3.0']);
    expect(stepsFrom('4.3.0', '7.0.0')).toBeUndefined();
    expect(updateSteps([release('5.0.0', { minimumPrevious: '4.0.0' })], 'AP-6', '3.0.0', '5.0.0')).toBeNull();
  });

  test('no step is ever taken from a release older than it demands', () => {
    const versions = fc.array(fc.tuple(fc.nat(9), fc.option(fc.nat(9))), { minLength: 1, maxLength: 8 });
    fc.assert(
      fc.property(versions, fc.nat(9), (list, running) => {
        const releases = list.map(([minor, least]) =>
          release(`1.${minor}.0`, { minimumPrevious: least === null ? null : `1.${Math.min(least, minor)}.0` }),
        );
        const target = releases[0]!.version;
        const steps = updateSteps(releases, 'AP-6', `1.${running}.0`, target);
        let at = `1.${running}.0`;
        for (const step of steps ?? []) {
          if (step.minimumPrevious !== null)
            expect(compareVersions(at, step.minimumPrevious)).toBeGreaterThanOrEqual(0);
          at = step.version;
        }
        if (steps) expect(compareVersions(at, target)).toBe(0);
      }),
      { seed: Number(process.env['SEED'] ?? 1) },
    );
  });
});

describe('update windows', () => {
  const window = { day: 0, from: 150, minutes: 120 }; // Sunday 02:30 to 04:30

  test('are weekly, in the site’s own time', () => {
    expect(isInWindow(window, 'Europe/Dublin', new Date('2026-11-22T03:00:00Z'))).toBe(true);
    expect(isInWindow(window, 'Europe/Dublin', new Date('2026-11-22T04:30:00Z'))).toBe(false);
    expect(isInWindow(window, 'America/New_York', new Date('2026-11-22T03:00:00Z'))).toBe(false);
    expect(isInWindow({ day: 6, from: 1380, minutes: 120 }, 'UTC', new Date('2026-11-22T00:30:00Z'))).toBe(true);
  });

  test('open next when local clocks say so, also after the clocks change', () => {
    const next = (from: string) => nextWindow(window, 'Europe/Dublin', new Date(from)).toISOString();
    expect(next('2026-11-23T09:00:00Z')).toBe('2026-11-29T02:30:00.000Z');
    expect(next('2026-10-20T09:00:00Z')).toBe('2026-10-25T02:30:00.000Z'); // clocks go back at 01:00 UTC that day
    expect(next('2026-06-01T09:00:00Z')).toBe('2026-06-07T01:30:00.000Z');
    expect(next('2026-11-22T03:00:00Z')).toBe('2026-11-22T03:00:00.000Z');
  });

  test('are checked, and said in words', () => {
    expect(checkWindow(window)).toEqual([]);
    expect(checkWindow({ day: 7, from: -1, minutes: 5 }).map((flaw) => flaw.field)).toEqual(['day', 'from', 'minutes']);
    expect(windowWords(window)).toBe('Sunday 02:30 to 04:30');
    expect(windowWords({ day: 6, from: 1380, minutes: 120 })).toBe('Saturday 23:00 to 01:00');
  });
});
