/** Calls again and again while the browser has nothing else to do, until told that there is no more. @returns what ends it. */
export function whenIdle(step: () => boolean): () => void {
  if (typeof requestIdleCallback === 'undefined') return () => undefined;
  const work = (left: IdleDeadline): void => {
    while (left.timeRemaining() > 2) if (!step()) return;
    next = requestIdleCallback(work);
  };
  let next = requestIdleCallback(work);
  return () => cancelIdleCallback(next);
}
