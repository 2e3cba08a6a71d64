import { DestroyRef, effect, inject, signal, untracked, type Signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { auditTime, filter } from 'rxjs';
import { problemOf, type Problem } from '../session/problem';
import { LiveEvents, type Happening } from './live-events';

/** Why an answer failed that another time would not have. */
const PASSING: ReadonlySet<string> = new Set(['controller.busy', 'unreachable']);
/** After how long it is asked again then, in milliseconds; doubled up to the most. */
export const LATER = { first: 2000, most: 30_000 } as const;

/** Whether the same question may have an answer in a while. */
export const isPassing = ({ code }: Problem): boolean => PASSING.has(code);

/** What of the controller's is fetched, and when it is worth fetching again. */
export interface LiveFetchOf<P, T> {
  /** What it is of; undefined: nothing is to be fetched now. */
  readonly of: () => P | undefined;
  readonly fetch: (of: P) => Promise<T>;
  /** Whether an event says that it may have changed; that events may have been missed always does. */
  readonly when: (event: Happening) => boolean;
  /** How often events are followed at the most, in milliseconds. */
  readonly every?: number;
  /** Whether what was told of one stays in sight until the next one's is there. */
  readonly stays?: boolean;
}

/** Something that is fetched and followed. */
export interface LiveFetch<T> {
  /** The last answer; null until there is one. */
  readonly value: Signal<T | null>;
  /** Why the last question had no answer; null when it had. */
  readonly problem: Signal<Problem | null>;
  readonly busy: Signal<boolean>;
  /** Asks again. */
  again(): Promise<void>;
  /** Takes what somebody here has just made of it, until it is asked for again; an answer under way may be from before, and is. */
  put(value: T): void;
}

/**
 * Fetches something of the controller's, and again whenever events say that it changed. One question is under way at a time;
 * what happens meanwhile is asked for after it, so that neither bursts of events nor slow answers keep it from being told.
 * An answer that fails leaves the last one in sight; where it failed since there was no time for it, it is asked again by itself. Call it where injection is possible.
 */
export function liveFetch<P, T>({ of, fetch, when, every = 250, stays = false }: LiveFetchOf<P, T>): LiveFetch<T> {
  const value = signal<T | null>(null);
  const problem = signal<Problem | null>(null);
  const busy = signal(false);
  let [asked, key, over, puts] = [false, '', false, 0];
  let round: Promise<void> | null = null;
  let later: ReturnType<typeof setTimeout> | undefined;
  let wait: number = LATER.first;

  const ask = async (): Promise<void> => {
    await Promise.resolve(); // whoever asks in the same breath is answered once
    while (asked && !over) {
      asked = false;
      clearTimeout(later);
      const [now, ofKey, before] = [untracked(of), key, puts];
      if (now === undefined) break;
      const answer = await fetch(now).then(
        (told) => ({ told }),
        (error: unknown) => ({ error }),
      );
      if (over || ofKey !== key) continue; // it is of another by now
      if (before !== puts) {
        asked = true; // what was put meanwhile may be newer
        continue;
      }
      if ('told' in answer) value.set(answer.told);
      const failed = 'told' in answer ? null : problemOf(answer.error);
      problem.set(failed);
      if (!failed) wait = LATER.first;
      else if (isPassing(failed)) {
        later = setTimeout(() => void again(), wait);
        wait = Math.min(wait * 2, LATER.most);
      }
    }
    round = null;
    busy.set(false);
  };
  const again = (): Promise<void> => {
    asked = true;
    busy.set(true);
    round ??= ask();
    return round;
  };

  effect(() => {
    const next = JSON.stringify(of()) ?? '';
    untracked(() => {
      if (next !== key && !stays) value.set(null);
      key = next;
      if (next !== '') void again();
    });
  });
  inject(LiveEvents)
    .all.pipe(
      filter((event) => event.type === 'reconnected' || when(event)),
      auditTime(every),
      takeUntilDestroyed(),
    )
    .subscribe(() => void again());
  inject(DestroyRef).onDestroy(() => {
    over = true;
    clearTimeout(later);
  });
  return {
    value: value.asReadonly(),
    problem: problem.asReadonly(),
    busy: busy.asReadonly(),
    again,
    put: (told) => {
      puts++;
      value.set(told);
    },
  };
}
