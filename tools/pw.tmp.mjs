// node tools/pw.tmp.mjs "FILES" [-g …]
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ensureWeb, root } from './setup.mjs';
import { makePrograms } from './programs.mjs';
import { startPostgres } from './pg.mjs';
await ensureWeb();
await makePrograms();
const postgres = await startPostgres(join(root, '.data', 'test'), { fast: true });
const [files, ...rest] = process.argv.slice(2);
const run = spawnSync(process.execPath, [join(root, 'node_modules/@playwright/test/cli.js'), 'test', '--config', 'e2e/playwright.config.ts', ...files.split('|'), '--reporter=line', ...rest], { cwd: root, stdio: 'inherit', env: { ...process.env, TEST_DATABASE: postgres.urlOf('NAME') } });
await postgres.stop();
process.exit(run.status ?? 1);
