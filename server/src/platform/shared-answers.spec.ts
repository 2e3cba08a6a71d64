import { gunzipSync } from 'node:zlib';
import { expect, test } from 'vitest';
import { SharedAnswers } from './shared-answers';

/** Work that is begun and ended by hand. */
function work() {
  const begun: ((answer: unknown) => void)[] = [];
  return { begun, compute: () => new Promise<unknown>((resolve) => begun.push(resolve)) };
}

test('who asks while an answer is worked out gets the next, which begins after they asked, with all others who did', async () => {
  const answers = new SharedAnswers();
  const { begun, compute } = work();
  const first = answers.get('a', compute);
  const late = Array.from({ length: 20 }, () => answers.get('a', compute));
  expect(begun).toHaveLength(1);
  begun[0]!({ at: 1 });
  expect((await first).body.toString()).toBe('{"at":1}');
  await expect.poll(() => begun.length).toBe(2);
  const later = answers.get('a', compute);
  begun[1]!({ at: 2 });
  const told = await Promise.all(late);
  expect(new Set(told.map(({ body }) => body.toString()))).toEqual(new Set(['{"at":2}']));
  await expect.poll(() => begun.length).toBe(3);
  begun[2]!({ at: 2 });
  expect(await later).toBe(told[0]); // the same octets are the same answer, compressed once
  expect(gunzipSync(await told[0]!.zipped()).toString()).toBe('{"at":2}');
});

test('one that fails is that one’s failure: the next is worked out all the same, and other questions do not wait', async () => {
  const answers = new SharedAnswers();
  let fails = true;
  const compute = async () => {
    await Promise.resolve();
    if (fails) throw new Error('away');
    return 1;
  };
  const first = answers.get('a', compute);
  const next = answers.get('a', compute).catch(() => 'failed');
  await expect(first).rejects.toThrow('away');
  fails = false;
  expect(['failed', '1']).toContain(
    await next.then((each) => (typeof each === 'string' ? each : each.body.toString())),
  );
  expect((await answers.get('a', compute)).body.toString()).toBe('1');
  const { begun, compute: slow } = work();
  void answers.get('slow', slow);
  expect((await answers.get('b', compute)).body.toString()).toBe('1');
  begun[0]!(1);
});
