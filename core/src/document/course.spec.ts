import { expect, test } from 'vitest';
import { flowBetween, type Flow } from '../paths';
import { courseRule, coursePicker, type CourseDocument } from './course';

const course = (id: string, more: Partial<CourseDocument> = {}): CourseDocument => ({
  ...{ id, name: id, from: ['any'], to: ['any'], services: [{ protocol: 'any' }], ways: [{ port: 'wan1', turn: 0 }] },
  ...more,
});
const flow = (source: string, target: string, port = 443, more: Partial<Flow> = {}): Flow => ({
  ...flowBetween(source, target, { protocol: 6, sourcePort: 50_000, port })!,
  ...more,
});

test('the first course that fits a flow takes it: by its ends, its ports, and the mark that it bears', () => {
  const pick = coursePicker([
    course('till', {
      from: ['10.1.20.0/24'],
      to: ['198.51.100.0/24'],
      services: [{ protocol: 'tcp', ports: ['443'] }],
    }),
    course('calls', { dscp: [46] }),
    course('tills', { from: ['10.1.20.0/24'] }),
  ]);
  expect(pick(flow('10.1.20.9', '198.51.100.7'))).toBe('till');
  expect(pick(flow('10.1.20.9', '198.51.100.7', 80))).toBe('tills');
  expect(pick(flow('10.1.20.9', '198.51.100.7', 80, { dscp: 46 }))).toBe('calls');
  expect(pick(flow('10.1.30.9', '198.51.100.7'))).toBeNull();
  expect(pick(flow('2001:db8::9', '2001:db8:1::7', 443, { dscp: 46 }))).toBe('calls');
});

test('ways with turns are taken in that order, without they are shared', () => {
  const ways = [
    { port: 'wan2', turn: 1 },
    { port: 'cell', turn: 0 },
  ];
  expect(courseRule(course('a', { ways }))).toEqual({
    id: 'a',
    ports: ['cell', 'wan2'],
    how: 'first',
    otherwise: 'usual',
  });
  const both = courseRule(course('b', { ways: [{ port: 'wan1' }, { port: 'wan2' }], otherwise: 'nothing' }));
  expect(both).toMatchObject({ how: 'share', otherwise: 'nothing' });
});
