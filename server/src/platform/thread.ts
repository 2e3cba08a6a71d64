import { Worker, type MessagePort } from 'node:worker_threads';

/** What a file of a thread has as `run`. @param port to whoever started it. */
export type RunThread<Given> = (port: MessagePort, given: Given) => void;

/**
 * Starts a thread that lives until it is ended: for work that comes by itself, such as datagrams.
 * @param file a `.heavy.ts` file that has `run`.
 */
export const startThread = <Given>(file: URL, given: Given): Worker =>
  new Worker(new URL('./thread-worker.mjs', import.meta.url), { workerData: { file: file.href, given } });
