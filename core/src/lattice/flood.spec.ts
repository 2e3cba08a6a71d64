import { expect, test } from 'vitest';
import { readStrands, strandsOf } from '.';

const plant = (devices: object[], cables: [string, string][]) =>
  strandsOf(readStrands({ format: 'iron-lattice.strands/1', segments: [{ name: 'Crew', vlan: 10 }], devices, cables }));
const port = (name: string, more: object = {}) => ({ name, untagged: 'Crew', ...more });
const trunk = (name: string, more: object = {}) => ({ name, tagged: ['Crew'], ...more });
const from = (strands: ReturnType<typeof plant>, name: string) => strands.find((each) => each.from === name)?.reaches;

test('two cables that nobody grouped are a loop, and each port is named once all the same', () => {
  const strands = plant(
    [
      { name: 'a', ports: [port('1'), trunk('u'), trunk('v')] },
      { name: 'b', ports: [port('1'), port('2'), trunk('u'), trunk('v')] },
    ],
    [
      ['a.u', 'b.u'],
      ['a.v', 'b.v'],
    ],
  );
  // Round the loop it comes back to where it came from.
  expect(from(strands, 'a.1')).toEqual(['a.1', 'b.1', 'b.2']);
  expect(new Set(strands.map((each) => each.reaches.length === new Set(each.reaches).size))).toEqual(new Set([true]));
});

test('ports that act as one are one: towards a neighbour that is known by its cable, else by the first', () => {
  const grouped = [trunk('5', { group: 1 }), trunk('6', { group: 1 })];
  const strands = plant([{ name: 'a', ports: [port('1'), ...grouped] }], []);
  expect(from(strands, 'a.1')).toEqual(['a.5@10']);
  const cabled = plant(
    [
      { name: 'a', ports: [port('1'), ...grouped] },
      { name: 'b', ports: [port('1'), trunk('u')] },
    ],
    [['a.6', 'b.u']],
  );
  expect(from(cabled, 'a.1')).toEqual(['b.1']);
});
