import { ConnectionRefusedError } from 'sequelize';
import { expect, test } from 'vitest';
import { WriteBehind } from './write-behind';

/** A store that can be away, busy with a key, or unable to take one. */
class Store {
  readonly kept = new Map<string, number>();
  statements = 0;
  away = false;
  bad = new Set<string>();
  busy = new Set<string>();
  readonly dropped: string[] = [];
  readonly failures: unknown[] = [];
  readonly behind = new WriteBehind<number>({
    write: async (entries) => {
      this.statements++;
      if (this.away) throw new ConnectionRefusedError(new Error('connect ECONNREFUSED'));
      if ([...entries.keys()].some((key) => this.bad.has(key))) throw new Error('invalid byte sequence');
      for (const [key, value] of entries)
        if (!this.busy.has(key)) this.kept.set(key, (this.kept.get(key) ?? 0) + value);
      return [...entries.keys()].filter((key) => this.busy.has(key));
    },
    merge: (older, newer) => older + newer,
    bad: (key) => this.dropped.push(key),
    failed: (error) => this.failures.push(error),
    soonMs: 60_000,
    most: 4,
  });
}

test('entries of a key become one, and a statement holds so many', async () => {
  const store = new Store();
  for (let i = 0; i < 9; i++) store.behind.put(`k${i}`, 1);
  store.behind.put('k0', 4);
  await store.behind.flush();
  expect(store.statements).toBe(3);
  expect([store.kept.get('k0'), store.kept.size, store.behind.size]).toEqual([5, 9, 0]);
});

test('a bad entry is parted from the others, which are written, and is told', async () => {
  const store = new Store();
  store.bad = new Set(['k2', 'k7']);
  for (let i = 0; i < 9; i++) store.behind.put(`k${i}`, 1);
  await store.behind.flush();
  expect([...store.kept.keys()]).toEqual(['k0', 'k1', 'k3', 'k4', 'k5', 'k6', 'k8']);
  expect([store.dropped, store.behind.size]).toEqual([['k2', 'k7'], 0]);
});

test('while the database is away all of it waits, with what comes meanwhile', async () => {
  const store = new Store();
  store.away = true;
  for (let i = 0; i < 9; i++) store.behind.put(`k${i}`, 1);
  await store.behind.flush();
  store.behind.put('k3', 1);
  await store.behind.flush();
  expect([store.kept.size, store.behind.size, store.dropped]).toEqual([0, 9, []]);
  store.away = false;
  await store.behind.flush();
  expect([store.kept.size, store.kept.get('k3'), store.behind.size]).toEqual([9, 2, 0]);
  expect(store.failures).toHaveLength(2);
});

test('a busy row is written when it is free, once, and given up when it never is', async () => {
  const store = new Store();
  store.busy = new Set(['a', 'gone']);
  store.behind.put('a', 1);
  store.behind.put('gone', 1);
  await store.behind.flush();
  store.behind.put('a', 1);
  store.busy.delete('a');
  await store.behind.flush();
  expect(store.kept).toEqual(new Map([['a', 2]]));
  for (let i = 0; i < 60; i++) await store.behind.flush();
  expect([store.behind.size, store.dropped]).toEqual([0, []]);
});
