import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureWeb, root } from './setup.mjs';
await ensureWeb();
const programs = await import('./programs.mjs');
if (programs.makePrograms) await programs.makePrograms().catch?.(() => {});
const { startPostgres } = await import('./pg.mjs');
const postgres = await startPostgres(join(root, '.data', 'test'), { fast: true });
const [files, ...rest] = process.argv.slice(2);
const child = spawn(
  process.execPath,
  [
    join(root, 'node_modules/@playwright/test/cli.js'),
    'test',
    '--config',
    'e2e/playwright.config.ts',
    ...files.split('|'),
    '--reporter=line',
    ...rest,
  ],
  { cwd: root, stdio: 'inherit', env: { ...process.env, TEST_DATABASE: postgres.urlOf('NAME') } },
);
child.on('close', (code) => {
  postgres.stop();
  process.exit(code ?? 1);
});
