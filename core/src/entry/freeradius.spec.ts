import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { writeClients, writeUsers } from '.';

const folder = mkdtempSync(join(tmpdir(), 'freeradius-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** What FreeRADIUS says of files of ours: it reads them whole and stops. */
function judged(clients: string, users: string): string {
  writeFileSync(join(folder, 'users'), users);
  writeFileSync(
    join(folder, 'radiusd.conf'),
    `prefix = /usr
libdir = /usr/lib/freeradius
raddbdir = ${folder}
logdir = ${folder}
run_dir = ${folder}
${clients}
modules {
  pap { }
  files { usersfile = ${folder}/users }
}
server default {
  listen {
    type = auth
    ipaddr = 127.0.0.1
    port = 0
  }
  authorize {
    files
    pap
  }
  authenticate {
    pap
  }
}
`,
  );
  const { stdout, stderr, error } = spawnSync('freeradius', ['-C', '-X', '-d', folder, '-n', 'radiusd'], {
    encoding: 'utf8',
  });
  if (error) throw error;
  return stdout + stderr;
}

const ANSWERS = ['Crew', 'Gate “scanners”', 'Quay "north" \\ 7', 'Café & Söhne'].map((name) => ({
  ...{ name, filterId: name, vlan: null },
}));

const byClass = { user: '020000000002', classes: ['Quay "north" \\ 7', 'Crew'] };
const RINGS = [{ ssid: 'Skerrow Berths', user: '020000000001', segments: ['Berth 1', 'Quay "north"'], byClass }];

test('FreeRADIUS reads clients and users as they are written, and each answer as it was meant', () => {
  const clients = writeClients('Ansel Quay', { addresses: ['203.0.113.11', '10.10.1.0/24', '2001:db8::7'] });
  const said = judged(clients, writeUsers({ answers: ANSWERS, rings: RINGS }));
  expect(said).toContain('Configuration appears to be OK');
  for (const client of ['ansel-quay-1', 'ansel-quay-2', 'ansel-quay-3']) expect(said).toContain(`client ${client} {`);
  // What is broken is not let pass.
  expect(judged(clients.replace('}', ''), writeUsers({ answers: ANSWERS, rings: RINGS }))).not.toContain(
    'appears to be OK',
  );
  expect(judged(clients, 'somebody Cleartext-Password := "x\n\tFilter-Id = Crew"')).not.toContain('appears to be OK');
  expect([writeClients('x', { addresses: [] }), writeUsers({ answers: [], rings: [] })]).toEqual(['', '']);
});
