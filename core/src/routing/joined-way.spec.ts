import { expect, test } from 'vitest';
import { joinedWay, type JoinedEnd } from './joined-way';

const end = (id: string, more: Partial<JoinedEnd> = {}): JoinedEnd => ({
  ...{ id, name: id.toUpperCase(), role: 'spoke', hubs: ['north', 'south'], direct: [], takes: null },
  carries: [`10.${id.charCodeAt(0)}.0.0/24`],
  ...more,
});
const hub = (id: string): JoinedEnd => end(id, { role: 'hub', hubs: [] });
const ends = [hub('north'), hub('south'), end('east'), end('west'), end('islet', { hubs: ['south'] })];
const down =
  (...pairs: string[]) =>
  (a: string, b: string): boolean =>
    !pairs.includes(`${a} ${b}`) && !pairs.includes(`${b} ${a}`);
const way = (from: string, to: string, up = down(), all = ends) => joinedWay(all, up, { id: from }, { id: to });

test('the way between two sites goes by their hubs, and by a tunnel of their own where that is up', () => {
  expect(way('east', 'west')).toEqual({
    ...{ path: ['east', 'north', 'west'], back: ['west', 'north', 'east'], symmetric: true, stops: [] },
  });
  expect(way('east', 'islet')).toMatchObject({
    ...{ path: ['east', 'north', 'south', 'islet'], back: ['islet', 'south', 'east'], symmetric: false, stops: [] },
  });
  expect(way('east', 'west', down('east north')).path).toEqual(['east', 'south', 'west']);
  const own = ends.map((each) => (each.id === 'west' ? { ...each, direct: ['east'] } : each));
  expect(way('east', 'west', down(), own).path).toEqual(['east', 'west']);
  expect(way('west', 'east', down('east west'), own).path).toEqual(['west', 'north', 'east']);
  expect(way('north', 'west').path).toEqual(['north', 'west']);
  const lost = way('islet', 'west', down('islet south'));
  expect(lost).toMatchObject({ path: null, stops: ['No tunnel that is up leads from ISLET to WEST.'] });
  expect(way('east', 'nowhere').stops).toEqual(['One of them is not joined.']);
});

test('nothing comes of it where a network is not shared, or where one end does not speak with the other', () => {
  const stops = (from: string | undefined, to: string | undefined, all = ends) =>
    joinedWay(
      all,
      () => true,
      { id: 'east', ...(from ? { prefix: from } : {}) },
      { id: 'west', ...(to ? { prefix: to } : {}) },
    ).stops;
  expect(stops('10.101.0.0/24', '10.119.0.0/25')).toEqual([]);
  expect(stops('10.8.0.0/24', undefined)).toEqual(['EAST does not share 10.8.0.0/24: nothing from there is taken in.']);
  expect(stops(undefined, '10.9.0.0/24')).toEqual(['WEST does not share 10.9.0.0/24: nobody elsewhere reaches it.']);
  const shy = ends.map((each) => (each.id === 'west' ? { ...each, takes: ['10.110.0.0/16'] } : each));
  expect(stops(undefined, undefined, shy)).toEqual(['WEST does not speak with 10.101.0.0/24.']);
  const open = ends.map((each) => (each.id === 'west' ? { ...each, takes: ['10.96.0.0/12'] } : each));
  expect(stops(undefined, undefined, open)).toEqual([]);
});
