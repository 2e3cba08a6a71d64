import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Subject } from 'rxjs';
import { vi } from 'vitest';
import { Problem } from '../session/problem';
import { LiveEvents, type Happening } from './live-events';
import { liveFetch } from './live-fetch';

describe('liveFetch', () => {
  const setUp = (more: { stays?: boolean } = {}) => {
    const events = new Subject<Happening>();
    TestBed.configureTestingModule({ providers: [{ provide: LiveEvents, useValue: { all: events } }] });
    const pier = signal<string | undefined>('north');
    const waiting: {
      readonly of: string;
      readonly tell: (berths: number) => void;
      readonly fail: (why: Error) => void;
    }[] = [];
    const fetch = (of: string): Promise<number> => new Promise((tell, fail) => void waiting.push({ of, tell, fail }));
    const live = TestBed.runInInjectionContext(() =>
      liveFetch({ of: pier, fetch, when: ({ type }) => type === 'site', every: 20, ...more }),
    );
    const settle = async (): Promise<void> => {
      TestBed.tick();
      await vi.advanceTimersByTimeAsync(30);
      TestBed.tick();
    };
    return { events, pier, waiting, live, settle };
  };
  const SITE = { type: 'site', siteId: 's' } as unknown as Happening;

  beforeEach(() => vi.useFakeTimers());
  afterEach(() => vi.useRealTimers());

  it('is fetched, and again at what says that it changed and at nothing else', async () => {
    const { events, waiting, live, settle } = setUp();
    await settle();
    expect([waiting.length, live.value(), live.busy()]).toEqual([1, null, true]);
    waiting[0]!.tell(2);
    await settle();
    expect([live.value(), live.busy()]).toEqual([2, false]);
    events.next({ type: 'hitch' } as unknown as Happening);
    await settle();
    expect(waiting.length).toBe(1);
    events.next(SITE);
    events.next(SITE);
    await settle();
    events.next({ type: 'reconnected' });
    await settle();
    expect(waiting.length).toBe(2);
  });

  it('asks once more after a slow answer for whatever happened meanwhile, and is told the slow one too', async () => {
    const { events, waiting, live, settle } = setUp();
    await settle();
    for (let i = 0; i < 5; i++) {
      events.next(SITE);
      await settle();
    }
    expect(waiting.length).toBe(1);
    waiting[0]!.tell(2);
    await settle();
    expect([live.value(), waiting.length, live.busy()]).toEqual([2, 2, true]);
    waiting[1]!.tell(3);
    await settle();
    expect([live.value(), waiting.length, live.busy()]).toEqual([3, 2, false]);
  });

  it('keeps what somebody here has just made over an answer that was under way, and asks once more', async () => {
    const { waiting, live, settle } = setUp();
    await settle();
    live.put(5);
    waiting[0]!.tell(2); // from before what was made here
    await settle();
    expect([live.value(), waiting.length, live.busy()]).toEqual([5, 2, true]);
    waiting[1]!.tell(6);
    await settle();
    expect([live.value(), waiting.length, live.busy()]).toEqual([6, 2, false]);
  });

  it('shows nothing of another, and never a late answer of the one before', async () => {
    const { pier, waiting, live, settle } = setUp();
    await settle();
    waiting[0]!.tell(2);
    await settle();
    void live.again();
    await settle();
    pier.set('south'); // an answer is under way as the question changes
    await settle();
    expect(live.value()).toBeNull();
    waiting[1]!.tell(9);
    await settle();
    expect([live.value(), waiting.at(-1)!.of]).toEqual([null, 'south']);
    waiting.at(-1)!.tell(4);
    await settle();
    expect(live.value()).toBe(4);
    pier.set(undefined);
    await settle();
    expect([live.value(), live.busy(), waiting.length]).toEqual([null, false, 3]);
  });

  it('keeps the last one in sight where it stays, and when an answer fails, saying why', async () => {
    const { pier, waiting, live, settle } = setUp({ stays: true });
    await settle();
    waiting[0]!.tell(2);
    await settle();
    pier.set('south');
    await settle();
    expect(live.value()).toBe(2);
    waiting[1]!.fail(new Error('gone'));
    await settle();
    expect([live.value(), live.problem()?.message]).toEqual([2, 'gone']);
    void live.again();
    await settle();
    waiting[2]!.tell(7);
    await settle();
    expect([live.value(), live.problem()]).toEqual([7, null]);
  });

  it('asks again by itself where there was no time for an answer, later each time, and not for what another time would not change', async () => {
    const { waiting, live, settle } = setUp();
    await settle();
    waiting[0]!.fail(new Problem('controller.busy', 'busy', []));
    await settle();
    await vi.advanceTimersByTimeAsync(1900);
    expect([waiting.length, live.problem()?.message]).toEqual([1, 'busy']);
    await vi.advanceTimersByTimeAsync(200);
    expect(waiting.length).toBe(2);
    waiting[1]!.fail(new Problem('controller.busy', 'busy', []));
    await vi.advanceTimersByTimeAsync(3900);
    expect(waiting.length).toBe(2);
    await vi.advanceTimersByTimeAsync(200);
    waiting[2]!.fail(new Problem('site.unknown', 'gone', []));
    await vi.advanceTimersByTimeAsync(60_000);
    expect(waiting.length).toBe(3);
  });
});
