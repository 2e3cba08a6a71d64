import { expect, test } from 'vitest';
import { choicePlaces, chosenAt } from '../../ui/choice-places';
import { removalWords } from '../removal-words';
import { madeWords } from './made-words';
import { commonTyped, NO_BRANCH, NO_COMMON, tableOfOne, usualOf } from './branches-text';

test('one branch is a list of one, with the headings that lists have', () => {
  const [head, row] = tableOfOne({ ...NO_BRANCH, name: ' Harrow Point ', serial: '3A1-0201-11' });
  expect(head!.slice(0, 3)).toEqual(['name', 'gateway', 'model']);
  expect(row!.slice(0, 3)).toEqual(['Harrow Point', '3A1-0201-11', '']);
  expect(row).toHaveLength(head!.length);
});

test('what all have in common is read as it is meant', () => {
  expect(commonTyped({ ...NO_COMMON, shares: 'Crew, Tills;', pool: ' 10.250.0.0/16 ' })).toMatchObject({
    shares: ['Crew', 'Tills'],
    pool: { prefix: '10.250.0.0/16', length: 26 },
  });
  expect(commonTyped(NO_COMMON).pool).toBeNull();
});

test('until somebody says otherwise, branches have all recipes, and the hubs that most sites have', () => {
  const member = (id: string, role: string, ...hubs: string[]) => ({ id, siteId: `at-${id}`, role, hubs });
  const hubs = [member('a', 'hub'), member('b', 'hub'), member('c', 'hub')];
  const spokes = [member('s', 'spoke', 'b', 'a'), member('t', 'spoke', 'b', 'a'), member('u', 'spoke', 'c')];
  const of = (members: object[]) => usualOf({ recipes: [{ id: 'r' }], members } as never);
  expect(of([...hubs, ...spokes])).toEqual({ recipeIds: ['r'], hubs: ['at-b', 'at-a'] });
  expect(of(hubs).hubs).toEqual(['at-a', 'at-b']);
  expect(usualOf(null)).toEqual({ recipeIds: [], hubs: [] });
});

test('what the press does is said before: what is there at once, what waits, and who is told by it', () => {
  const count = { sites: 2, devices: 3, calling: 0, edits: 9 };
  const at = (name: string, devices: number) => ({ siteId: name, name, devices });
  expect(madeWords({ count, elsewhere: [at('Brinmouth', 1), at('Petrel', 0)] })).toEqual({
    there: 'At once: 2 sites are there, 3 boxes are expected, each taken in when it calls.',
    draft: 'In the draft: 9 edits. Rolled out, that tells 1 device at Brinmouth.',
  });
  const many = ['A', 'B', 'C', 'D', 'E', 'F'].map((name) => at(name, 2));
  expect(madeWords({ count, elsewhere: many }).draft).toMatch(/tells 12 devices at A, B, C, D and 2 more\.$/);
  expect(madeWords({ count: { sites: 1, devices: 1, calling: 0, edits: 1 }, elsewhere: [] })).toEqual({
    there: 'At once: the site is there, 1 box is expected, and taken in when it calls.',
    draft: 'In the draft: 1 edit. No device that is there is told anything by them.',
  });
  expect(madeWords({ count: { ...count, calling: 2 }, elsewhere: [] }).there).toBe(
    'At once: 2 sites are there, 2 boxes call and are taken in, 1 box is expected, and taken in when it calls.',
  );
  expect(madeWords({ count: { ...count, edits: 0 }, elsewhere: [] }).draft).toBe('Nothing is put into the draft.');
});

test('what goes with a site that is taken away is said, or why it stays', () => {
  const seen = { why: null, boxes: 3, edits: 6, drafts: ['Draft 1'] };
  expect(removalWords('Harrow Point', seen)).toBe(
    'Harrow Point goes, and with it 3 boxes that are expected and 6 edits of Draft 1. This cannot be undone.',
  );
  expect(removalWords('Pier', { ...seen, boxes: 1, edits: 0, drafts: [] })).toBe(
    'Pier goes, and with it 1 box that is expected. This cannot be undone.',
  );
  expect(removalWords('Pier', { ...seen, boxes: 0, edits: 0, drafts: [] })).toMatch(/nothing with it/);
  expect(removalWords('Pier', { ...seen, why: '1 device is at Pier.' })).toBe('1 device is at Pier.');
});

test('places in an order offer what is not chosen yet, and close up when one is left empty', () => {
  const all = ['a', 'b', 'c'].map((value) => ({ value, label: value }));
  expect(choicePlaces(['b'], all).map(({ value, options }) => [value, options.map((each) => each.value)])).toEqual([
    ['b', ['a', 'b', 'c']],
    [null, [null, 'a', 'c']],
  ]);
  expect(choicePlaces(['a', 'b', 'c'], all)).toHaveLength(3);
  expect(chosenAt(['a', 'b'], 0, null)).toEqual(['b']);
  expect(chosenAt(['a'], 1, 'c')).toEqual(['a', 'c']);
});
