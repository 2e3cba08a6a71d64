// Where threads find a file of ours: as it was made, or as it is written.

const fromSources = import.meta.url.endsWith('/src/platform/made-file.mjs');
const SOURCE = /\/src\/[^?]*\/([^/]+)\.heavy\.ts$/;

/**
 * Threads do not inherit the loader of TypeScript. Whoever runs tests has made programs of the sources just now: these are read.
 * @param file URL of a `.heavy.ts` file, or of what was made of it. @returns the one to import.
 */
export async function madeOf(file) {
  if (!fromSources) return file;
  if (process.env.VITEST) return file.replace(SOURCE, (_, name) => `/dist/heavy/${name}.mjs`);
  (await import('tsx/esm/api')).register();
  return file;
}
