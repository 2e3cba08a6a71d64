import { AsyncLocalStorage } from 'node:async_hooks';

/** Whether the code that runs now is inside a transaction that is not over. */
const holding = new AsyncLocalStorage<{ open: boolean }>();

/**
 * Runs what goes on inside a transaction. Until it is over, everything begun from it that asks for a further connection
 * fails at once: somebody who holds one and waits for a second can stop everybody for good.
 */
export async function whileHolding<T>(work: () => Promise<T>): Promise<T> {
  const held = { open: true };
  try {
    return await holding.run(held, work);
  } finally {
    held.open = false;
  }
}

/** @throws Error when the code that runs now holds a connection. @param what is asked for, for the message. */
export function refuseSecond(what: string): void {
  if (holding.getStore()?.open)
    throw new Error(`${what} would take a second connection inside a transaction; pass the transaction on, or wait`);
}

/** Has something done later that is not part of the transaction it is asked for in. */
export const later = (ms: number, work: () => void): NodeJS.Timeout => holding.exit(() => setTimeout(work, ms));
