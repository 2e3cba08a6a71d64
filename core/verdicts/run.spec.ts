import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, expect, test } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'lattice-verdicts-'));
afterAll(() => rmSync(folder, { recursive: true }));

const example = /```json\n([\s\S]*?)```/.exec(readFileSync(join(root, 'docs/rules-file.md'), 'utf8'))![1]!;
function verdicts(text: string) {
  const path = join(folder, 'rules.json');
  writeFileSync(path, text);
  return spawnSync(process.execPath, ['--import', 'tsx', 'core/verdicts/run.ts', path], {
    cwd: root,
    encoding: 'utf8',
  });
}

test('the command prints verdicts, and a ruleset that nft takes', () => {
  const done = verdicts(example);
  expect(done.stderr).toBe('');
  const out = JSON.parse(done.stdout) as { verdicts: { verdict: string }[]; nftables: string; acl: object };
  expect(out.verdicts.map(({ verdict }) => verdict)).toEqual(['allow', 'allow', 'deny']);
  expect(Object.keys(out.acl)).toEqual(['ietf-access-control-list:acls']);
  const check = (ruleset: string) =>
    spawnSync('/usr/sbin/nft', ['-c', '-f', '-'], { input: ruleset, encoding: 'utf8' });
  expect(check(out.nftables)).toMatchObject({ status: 0, stderr: '' });
  expect(check(out.nftables.replace('10.12.20.20', '10.12.20.320')).status).not.toBe(0);
});

test('a file with wrong rules is refused with all of them, and ends with code 2', () => {
  const broken = example.replace('"set Print"', '"set Prunt"').replace('"to": "private"', '"to": "10.0.0.0/40"');
  const done = verdicts(broken);
  expect(done.status).toBe(2);
  expect(done.stderr).toContain('print: There is no set Prunt.');
  expect(done.stderr).toContain('quiet: 10.0.0.0/40 is no address, prefix or range from low to high.');
});
