// Entry of worker threads: finds the tasks of every part.
import { workerData } from 'node:worker_threads';

// From sources, as tests do: what was made of them is read, since threads do not inherit the loader of TypeScript.
const SOURCE = /\/src\/[^?]*\/([^/]+)\.heavy\.ts$/;
const made = (file) => file.replace(SOURCE, (_, name) => `/dist/heavy/${name}.mjs`);

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
