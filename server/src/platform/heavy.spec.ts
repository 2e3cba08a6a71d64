import { expect, test } from 'vitest';
import { Heavy } from './heavy';

test('whoever waits for work when the controller stops is told that it stops', async () => {
  const heavy = new Heavy([new URL('./platform.heavy.ts', import.meta.url)]);
  const waiting = heavy.run('nothing of the kind' as never).catch((error: unknown) => error);
  await heavy.close();
  expect(await waiting).toMatchObject({ code: 'controller.busy' });
});

test('a task that there is none of is a fault of ours, and said as one', async () => {
  const heavy = new Heavy([new URL('./platform.heavy.ts', import.meta.url)]);
  await expect(heavy.run('nothing of the kind' as never)).rejects.toThrow('no part of the controller has the task');
  await heavy.close();
});
