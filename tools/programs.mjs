// One file for each program: a start reads it instead of compiling hundreds of sources, and so does each worker thread.
import { existsSync, mkdirSync, readFileSync, readdirSync, renameSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { build } from 'esbuild';
import { hashOfTree, root } from './setup.mjs';

/** The files to start, once they are made. */
export const PROGRAMS = { controller: join(root, 'server/dist/main.mjs'), fleet: join(root, 'fleet/dist/main.mjs') };

/** Files with tasks for worker threads, each a program of its own. */
const tasksIn = (folder) =>
  readdirSync(folder, { recursive: true })
    .filter((name) => name.endsWith('.heavy.ts'))
    .map((name) => join(folder, name));

/** What is installed goes in too, but for what brings files of its own that it reads: machine code, and threads of its own. */
const READ_WHERE_IT_IS = ['@node-rs/argon2', 'sharp', 'pdfkit', 'piscina', 'pg-hstore', 'pg-native'];

/** Packages that are not ES modules ask for these. */
const FOR_COMMONJS = `import { createRequire as requireFrom } from 'node:module';
const require = requireFrom(import.meta.url);
const [__filename, __dirname] = [import.meta.filename ?? '', import.meta.dirname ?? ''];`;

/** Where a part says which file has its tasks, that file’s program is meant. */
const tasksAsMade = {
  name: 'tasks-as-made',
  setup({ onLoad }) {
    onLoad({ filter: /server[/\\]src[/\\].*\.ts$/ }, ({ path }) => ({
      contents: readFileSync(path, 'utf8').replace(
        /new URL\('([^']+)\.heavy\.ts', import\.meta\.url\)/g,
        (_, file) => `new URL('./heavy/${basename(file)}.mjs', import.meta.url)`,
      ),
      loader: 'ts',
    }));
  },
};

/** Puts a file in its place whole: others may be reading the one before. */
function put(path, contents) {
  if (existsSync(path) && Buffer.compare(readFileSync(path), contents) === 0) return;
  mkdirSync(dirname(path), { recursive: true });
  const made = `${path}.${process.pid}`;
  writeFileSync(made, contents);
  renameSync(made, path);
}

/** Makes them anew when what goes in is not what went in the last time. */
async function make() {
  const stamp = join(root, 'server/dist/.stamp');
  const wanted = hashOfTree([
    'core/src',
    'server/src',
    'fleet/src',
    'tsconfig.base.json',
    'tools/programs.mjs',
    'package-lock.json',
  ]);
  const there = [...Object.values(PROGRAMS), stamp].every((file) => existsSync(file));
  if (there && readFileSync(stamp, 'utf8') === wanted) return;
  const [server, fleet] = [join(root, 'server'), join(root, 'fleet')];
  const entries = {
    'server/dist/main': join(server, 'src/main.ts'),
    'fleet/dist/main': join(fleet, 'src/main.ts'),
    ...Object.fromEntries(
      tasksIn(join(server, 'src')).map((file) => [`server/dist/heavy/${basename(file, '.heavy.ts')}`, file]),
    ),
  };
  const { outputFiles } = await build({
    absWorkingDir: root,
    entryPoints: entries,
    outdir: root,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    sourcemap: 'linked',
    sourcesContent: false,
    write: false,
    logLevel: 'error',
    external: READ_WHERE_IT_IS,
    banner: { js: FOR_COMMONJS },
    plugins: [tasksAsMade],
  });
  for (const { path, contents } of outputFiles) put(path, Buffer.from(contents));
  for (const worker of ['heavy-worker.mjs', 'thread-worker.mjs', 'made-file.mjs'])
    put(join(server, 'dist', worker), readFileSync(join(server, 'src/platform', worker)));
  put(stamp, Buffer.from(wanted));
}

let made = null;

/** Makes the programs, once in a process. */
export const makePrograms = () => (made ??= make());
