import { describe, expect, test } from 'vitest';
import {
  categoryOf,
  MARKS,
  octetOfMark,
  plainPriorityOf,
  priorityOf,
  readMark,
  useOfMark,
  waitsOf,
  writeMark,
} from '.';

describe('marks of packets', () => {
  test('are read by name or number, and written by name', () => {
    for (const { name, dscp } of MARKS) {
      expect(readMark(name)).toBe(dscp);
      expect(readMark(` ${name.toLowerCase()} `)).toBe(dscp);
      expect(writeMark(dscp)).toBe(name);
    }
    for (let dscp = 0; dscp < 64; dscp++) expect(readMark(writeMark(dscp))).toBe(dscp);
    expect([readMark('BE'), readMark('df'), readMark('cs0'), readMark('0')]).toEqual([0, 0, 0, 0]);
    for (const text of ['', '64', '-1', '4.5', 'AF', 'AF14', 'AF50', 'CS8', 'EFF', '0x2e', '046', '1e1'])
      expect(readMark(text), text).toBeNull();
  });

  test('are what RFC 2474, 2597, 3246, 5865 and 8622 number them', () => {
    const numbers = { CS1: 8, CS7: 56, AF11: 10, AF13: 14, AF42: 36, EF: 46, VA: 44, LE: 1 };
    for (const [name, dscp] of Object.entries(numbers)) expect(readMark(name), name).toBe(dscp);
    expect(octetOfMark(46)).toBe(184);
    expect(new Set(MARKS.map(({ dscp }) => dscp)).size).toBe(MARKS.length);
  });

  test('go on the air as RFC 8325 maps them, and not by their first three bits', () => {
    const air = (name: string) => categoryOf(priorityOf(readMark(name)!));
    expect(['EF', 'VA', 'CS6', 'CS5', 'AF41', 'CS3', 'AF21', 'AF11', 'CS2', 'CS0', 'CS1', 'LE'].map(air)).toEqual(
      ['VO', 'VO', 'VO', 'VI', 'VI', 'VI', 'BE', 'BE', 'BE', 'BE', 'BK', 'BK'], // in that order
    );
    // Calls would wait with video, and transactions behind everything.
    expect([categoryOf(plainPriorityOf(46)), categoryOf(plainPriorityOf(20))]).toEqual(['VI', 'BK']);
    for (let dscp = 0; dscp < 64; dscp++) if (useOfMark(dscp) === null) expect(priorityOf(dscp)).toBe(0);
  });

  test('wait the longer the less they are hurried', () => {
    const [bk, be, vi, vo] = (['BK', 'BE', 'VI', 'VO'] as const).map((each) => waitsOf(each, 16, 9));
    expect(bk).toEqual({ gap: 79, mean: 67.5 });
    expect([be!.gap, vi!.gap, vo!.gap]).toEqual([43, 34, 34]);
    expect(vo!.mean).toBeLessThan(vi!.mean);
  });
});
