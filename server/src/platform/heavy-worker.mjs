// Entry of worker threads: finds the tasks of every part.
import { workerData } from 'node:worker_threads';
import { madeOf } from './made-file.mjs';

// Piscina puts what it was given behind what is its own.
const { files } = Array.isArray(workerData) ? workerData[1] : workerData;
const tasks = {};
for (const file of files) Object.assign(tasks, (await import(await madeOf(file))).tasks);

/** Runs one task by its name. */
export default function work({ name, args }) {
  const task = tasks[name];
  if (!task) throw new Error(`no part of the controller has the task ${name}`);
  return task(...args);
}
