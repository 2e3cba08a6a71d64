import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { SecretBox } from './secret-box';

const root = fileURLToPath(new URL('../../..', import.meta.url));
const box = fileURLToPath(new URL('./secret-box.ts', import.meta.url));
let folder = '';
beforeEach(() => void (folder = mkdtempSync(join(tmpdir(), 'lattice-key-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

test('a key is made once, for its owner alone, and opened again', () => {
  const path = join(folder, 'deeper', 'secret.key');
  const sealed = SecretBox.fromFile(path, null).seal('one', 'a passphrase');
  expect([statSync(path).mode & 0o777, readdirSync(join(folder, 'deeper'))]).toEqual([0o600, ['secret.key']]);
  expect(SecretBox.fromFile(path, { id: 'one', sealed }).open('one', sealed)).toBe('a passphrase');
});

test('a key that could not be written whole is not there at all, and the next start makes one', () => {
  const path = join(folder, 'secret.key');
  // The process may make files from here on, and write nothing into them.
  const code = `
    import { execFileSync } from 'node:child_process';
    const { SecretBox } = await import(${JSON.stringify(box)});
    execFileSync('prlimit', ['--pid', String(process.pid), '--fsize=0']);
    try { SecretBox.fromFile(${JSON.stringify(path)}, null); } catch (error) { console.log(error.code); }`;
  const args = ['--import', 'tsx', '--input-type=module', '-e', code];
  const child = spawnSync(process.execPath, args, { cwd: root, encoding: 'utf8' });
  expect([child.stdout.trim(), child.stderr]).toEqual(['EFBIG', '']);
  expect(readdirSync(folder)).toEqual([]);
  SecretBox.fromFile(path, null);
  expect(readFileSync(path)).toHaveLength(32);
});
