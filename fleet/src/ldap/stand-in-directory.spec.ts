import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { MadeUpAuthority } from '../radius/stand-in-certificates';
import { StandInDirectory } from './stand-in-directory';

const BASE = 'dc=quay,dc=example';
const ACCOUNT = `cn=lattice,ou=services,${BASE}`;
const folder = mkdtempSync(join(tmpdir(), 'directory-'));
const directory = new StandInDirectory({
  base: BASE,
  accounts: {
    [ACCOUNT]: { password: 'tide', rights: 'least' },
    [`cn=greedy,${BASE}`]: { password: 'all', rights: 'passwords' },
  },
  people: {
    'ebba.strand': { name: 'Ebba Strand', password: 'grey seal 12', groups: ['Deck, aft', 'Engine'] },
    'runa.vey': { name: 'Runa Vey', password: 'foghorn 88', groups: [] },
  },
});

beforeAll(async () => {
  const authority = await MadeUpAuthority.make('Quay');
  writeFileSync(join(folder, 'ca.pem'), authority.pem);
  await directory.listen(0, await authority.issue('localhost', 'server'));
});
afterAll(() => {
  directory.close();
  rmSync(folder, { recursive: true });
});

/** What a client that we did not write is told. */
function ldapsearch(args: readonly string[], { by = ACCOUNT, password = 'tide', secure = true } = {}) {
  return new Promise<{ code: number | null; out: string }>((resolve) => {
    const url = secure ? `ldaps://127.0.0.1:${directory.ports.ldaps}` : `ldap://127.0.0.1:${directory.ports.ldap}`;
    const child = spawn(
      'ldapsearch',
      ['-LLL', '-x', '-H', url, '-D', by, '-w', password, '-o', 'ldif-wrap=no', '-o', 'nettimeout=3', ...args],
      {
        env: { ...process.env, LDAPTLS_CACERT: join(folder, 'ca.pem') },
      },
    );
    let out = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.once('close', (code) => resolve({ code, out }));
  });
}

test('ldapsearch, which we did not write, finds people and their groups, encrypted from the start or from then on', async () => {
  for (const more of [[], ['-ZZ']]) {
    const { code, out } = await ldapsearch(
      ['-b', BASE, ...more, '(&(objectClass=person)(uid=EBBA.strand))', 'memberOf', 'userPassword'],
      { secure: more.length === 0 },
    );
    expect([code, out]).toEqual([0, expect.stringContaining(`dn: uid=ebba.strand,ou=people,${BASE}`)]);
    expect(out).toContain(`memberOf: cn=Deck\\, aft,ou=groups,${BASE}`);
    expect(out).not.toContain('userPassword');
  }
  expect((await ldapsearch(['-b', BASE, '(cn=Runa*)', 'uid'])).out).toContain('uid: runa.vey');
  expect((await ldapsearch(['-b', BASE, '(!(uid=*))', '1.1'])).out.match(/^dn: /gm)).toHaveLength(5);
  expect((await ldapsearch(['-b', BASE, '-s', 'one', '(objectClass=*)', '1.1'])).out.match(/^dn: /gm)).toHaveLength(2);
});

test('who may not is told so, and who may too much sees what passwords are', async () => {
  expect((await ldapsearch(['-b', BASE], { password: 'ebb' })).code).toBe(49);
  expect((await ldapsearch(['-b', BASE], { by: `uid=runa.vey,ou=people,${BASE}`, password: 'foghorn 88' })).code).toBe(
    50,
  );
  expect((await ldapsearch(['-b', `ou=nowhere,${BASE}`])).code).toBe(32);
  expect((await ldapsearch(['-b', BASE, '-z', '2'])).code).toBe(4);
  const greedy = { by: `cn=greedy,${BASE}`, password: 'all' };
  expect(
    (await ldapsearch(['-b', BASE, '(userPassword=*)', 'userPassword'], greedy)).out.match(/^userPassword/gm),
  ).toHaveLength(2);
});

test('it misbehaves as it is told, and what is no message ends that connection alone', async () => {
  directory.mood = 'busy';
  expect((await ldapsearch(['-b', BASE])).code).toBe(51);
  directory.mood = 'no-tls';
  expect((await ldapsearch(['-b', BASE, '-ZZ'], { secure: false })).code).not.toBe(0);
  directory.mood = null;
  const over = (octets: Buffer): Promise<void> =>
    new Promise((resolve) => {
      const socket = connect(directory.ports.ldap, '127.0.0.1', () => socket.write(octets));
      socket.on('data', () => socket.end());
      socket.on('error', () => {});
      socket.once('close', () => resolve());
    });
  await Promise.all(
    [
      Buffer.from([0x30, 0x84, 0xff, 0xff, 0xff, 0xff]),
      Buffer.from([0x30, 0x89]),
      Buffer.from([0x30, 0x03, 0x02, 0x01, 0x01]),
    ].map(over),
  );
  expect((await ldapsearch(['-b', BASE, '(uid=runa.vey)'])).code).toBe(0);
});
