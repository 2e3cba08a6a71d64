// Entry of worker threads: finds the tasks of every part.
import { workerData } from 'node:worker_threads';

// Threads do not inherit the loader of TypeScript. Whoever runs tests has made programs of the sources just now: these are read.
const fromSources = import.meta.url.endsWith('/src/platform/heavy-worker.mjs');
if (fromSources && !process.env.VITEST) (await import('tsx/esm/api')).register();
const SOURCE = /\/src\/[^?]*\/([^/]+)\.heavy\.ts$/;
const made = (file) =>
  fromSources && process.env.VITEST ? file.replace(SOURCE, (_, name) => `/dist/heavy/${name}.mjs`) : file;

// Piscina puts what it was given behind what is its own.
const { files } = Array.isArray(workerData) ? workerData[1] : workerData;
const tasks = {};
for (const file of files) Object.assign(tasks, (await import(made(file))).tasks);

/** Runs one task by its name. */
export default function work({ name, args }) {
  const task = tasks[name];
  if (!task) throw new Error(`no part of the controller has the task ${name}`);
  return task(...args);
}
