// Entry of a thread that lives as long as the controller: runs what a file has as `run`.
import { parentPort, workerData } from 'node:worker_threads';
import { madeOf } from './made-file.mjs';

const { run } = await import(await madeOf(workerData.file));
run(parentPort, workerData.given);
