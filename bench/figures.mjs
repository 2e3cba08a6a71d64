// How figures are printed: one a line, with what was aimed at beside them. Never a verdict.
import { readFileSync } from 'node:fs';

export function figure(name, value, aim) {
  console.log(`${name.padEnd(58)} ${String(value).padStart(12)}   aimed at: ${aim}`);
}

export const percentile = (values, share) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.ceil(values.length * share) - 1)];

/** Resident memory of a process, in kilobytes. */
export function residentKb(pid) {
  return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]);
}

export const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

/** Looks again until `read` gives something true. */
export async function until(read, withinMs = 120_000) {
  const deadline = Date.now() + withinMs;
  for (;;) {
    const value = await read();
    if (value) return value;
    if (Date.now() > deadline) throw new Error('gave up waiting');
    await pause(50);
  }
}
