import { createServer } from 'node:net';
import {
  USUAL_DIRECTORY,
  type DirectoryFault,
  type DirectoryFields,
  type DirectoryTried,
  type DirectoryView,
} from '@iron-lattice/core/entry';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { AskingEstate } from '../testing/asking-estate';
import { SLAPD, startSlapd } from '../testing/slapd';

let estate: AskingEstate;
let slapd: Awaited<ReturnType<typeof startSlapd>>;
let fields: DirectoryFields;
const secret = SLAPD.account.password;

beforeAll(async () => {
  [estate, slapd] = await Promise.all([AskingEstate.start('ENT-04'), startSlapd()]);
  fields = {
    ...USUAL_DIRECTORY,
    ...{ host: 'localhost', port: slapd.securePort, security: 'ldaps', authority: slapd.authority },
    ...{ account: SLAPD.account.dn, base: `ou=people,${SLAPD.base}`, groupAttribute: '' },
    ...{ groupBase: `ou=groups,${SLAPD.base}`, groupFilter: '(&(objectClass=groupOfNames)(member={dn}))' },
  };
});
afterAll(async () => {
  slapd.stop();
  await estate.end();
});

const tries = (
  name: string,
  password = '',
  change: Partial<DirectoryFields> = {},
  by: string | null = secret,
): Promise<DirectoryTried> =>
  estate.ada.post('/api/directory/try', { fields: { ...fields, ...change }, secret: by, name, password });
const keep = async (change: Partial<DirectoryFields> = {}, by: string | null = null) => {
  const { directory }: { directory: DirectoryView | null } = await estate.ada.get('/api/directory');
  return estate.ada.ask('POST', '/api/directory', {
    version: directory?.version ?? 0,
    fields: { ...fields, ...change },
    secret: by,
  });
};
async function becomes(what: () => Promise<string>, is: string): Promise<void> {
  for (let tried = 0; tried < 60 && (await what()) !== is; tried++) await new Promise((go) => setTimeout(go, 50));
  expect(await what()).toBe(is);
}

test('slapd, which we did not write, is asked for somebody: what is asked and answered is told, and no password', async () => {
  const told = await tries('Ebba.Strand', 'grey seal 12');
  expect(told).toMatchObject({ fault: null, right: true, rights: { passwords: false, anybody: false } });
  expect(told.found).toMatchObject({ dn: `uid=ebba.strand,ou=people,${SLAPD.base}` });
  expect([...told.found!.groups].sort()).toEqual(['Deck, aft', 'Engine']);
  expect(told.steps.map(({ asked }) => asked.split(' ')[0])).toEqual([
    'Sign',
    'Search',
    'Search',
    'Search',
    'Search',
    'Sign',
  ]);
  expect(JSON.stringify(told)).not.toMatch(/grey seal|reads names/);
  expect((await tries('ebba.strand', 'grey seal 99')).right).toBe(false);
  expect((await tries('ebba.strand')).right).toBeNull();
  // A name is a name, whatever is written in it, and never a part of the filter.
  expect((await tries('odd(*)name', 'grey seal 13')).right).toBe(true);
  for (const name of ['*', 'ebba*', 'x)(uid=*', 'nobody', '\\2a']) expect((await tries(name)).found).toBeNull();
  const plain = { port: slapd.port, security: 'starttls' } as const;
  expect((await tries('ebba.strand', 'grey seal 12', plain)).right).toBe(true);
  expect((await tries('ebba.strand', 'grey seal 12', { ...plain, security: 'none', authority: '' })).right).toBe(true);
});

test('what goes wrong is told apart, each with what to do', async () => {
  const silent = createServer(() => {}).listen(0, '127.0.0.1');
  await new Promise((resolve) => silent.once('listening', resolve));
  const { port: silentPort } = silent.address() as { port: number };
  const faults: [DirectoryFault, Partial<DirectoryFields>, string?][] = [
    ['unresolved', { host: 'nobody.invalid' }],
    ['unreachable', { port: 1 }],
    ['silent', { port: silentPort, security: 'none', authority: '' }],
    ['untrusted', { authority: '' }],
    ['untrusted', { host: '127.0.0.1' }],
    ['account', {}, 'another password'],
    ['base', { base: 'ou=nowhere,dc=quay,dc=example' }],
    ['several', { filter: '(|(uid={name})(objectClass=inetOrgPerson))' }],
    ['size', { groupFilter: '(|(member={dn})(objectClass=*))', groupBase: SLAPD.base }],
  ];
  for (const [fault, change, by = secret] of faults) {
    const told = await tries('ebba.strand', '', change, by);
    expect([fault, told.fault, told.words]).toEqual([fault, fault, expect.stringMatching(/\S/)]);
    expect(told.steps.at(-1)!.ok).toBe(false);
  }
  expect((await tries('twin')).fault).toBe('several');
  silent.close();
  const greedy = await tries('ebba.strand', '', { account: SLAPD.greedy.dn }, SLAPD.greedy.password);
  expect(greedy.rights).toEqual({ passwords: true, anybody: false });
  for (const [change, field] of [
    [{ filter: '(uid=*)' }, 'filter'],
    [{ filter: '(uid={name}' }, 'filter'],
    [{ host: 'a b' }, 'host'],
    [{ base: '' }, 'base'],
    [{ groupBase: '' }, 'groupBase'],
    [{ account: 'lattice' }, 'account'],
    [{ authority: 'no certificate' }, 'authority'],
  ] as const) {
    const { status, json } = await estate.ada.ask('POST', '/api/directory/try', {
      fields: { ...fields, ...change },
      secret,
      name: 'x',
      password: '',
    });
    expect([status, json.flaws[0].field]).toEqual([422, field]);
  }
});

test('who is in the directory is let in with the class of a group, by the controller’s own RADIUS; its password is kept nowhere', async () => {
  const { client, ada } = estate;
  expect((await keep({}, secret)).status).toBe(204);
  const asks = (password: string, name = 'ebba.strand') => client.ask({ user: name, password });
  await becomes(() => asks('grey seal 12'), 'accept Deckhands');
  expect(await asks('grey seal 11')).toBe('reject');
  expect(await asks('')).toBe('reject');
  expect(await asks('grey seal 12', 'nobody at all')).toBe('reject Not kept here');
  // Which name fits is not known: nobody is answered, and others are asked.
  expect(await asks('grey seal 14', 'twin')).toBe('silent');
  const view: { directory: DirectoryView } = await ada.get('/api/directory');
  expect(view.directory).toMatchObject({ hasSecret: true, fields: { host: 'localhost' } });
  const { database } = estate.setting.controller;
  const [rows] = await database.query(
    `SELECT to_jsonb(d) AS row FROM entry_directory d UNION ALL SELECT to_jsonb(j) FROM journal j WHERE act LIKE 'directory%'`,
  );
  expect(JSON.stringify([view, rows])).not.toMatch(/reads names|grey seal/);
  await ada.until('/api/directory', ({ directory }: { directory: DirectoryView }) => directory.health !== null);
  const { directory } = await ada.get('/api/directory');
  expect(directory.health).toMatchObject({ fault: null, rights: { passwords: false } });
});

test('what is kept of it goes to no other host, and nobody changes it who may not, or who has not seen it as it is', async () => {
  expect((await keep({ port: slapd.port, security: 'starttls' })).status).toBe(204);
  const elsewhere = { fields: { ...fields, host: 'elsewhere.example' }, secret: null, name: 'x', password: '' };
  const { status, json } = await estate.ada.ask('POST', '/api/directory/try', elsewhere);
  expect([status, json.flaws[0].field]).toEqual([422, 'secret']);
  const oli = await estate.setting.as('oli');
  for (const [method, path, body] of [
    ['POST', '/api/directory', { version: 2, fields, secret: null }],
    ['POST', '/api/directory/try', { fields, secret: null, name: 'x', password: '' }],
    ['DELETE', '/api/directory', undefined],
  ] as const)
    expect((await oli.ask(method, path, body)).status).toBe(403);
  expect((await estate.ada.ask('POST', '/api/directory', { version: 1, fields, secret: null })).status).toBe(409);
});

test('while it does not answer nobody is turned away, and who guesses is held up; without it nobody of it is known', async () => {
  const { client, ada } = estate;
  const asks = (password: string) => client.ask({ user: 'ebba.strand', password });
  await becomes(() => asks('grey seal 12'), 'accept Deckhands');
  expect((await keep({ port: 1, security: 'none', authority: '' }, secret)).status).toBe(204);
  await becomes(() => asks('grey seal 12'), 'silent');
  expect((await keep({}, secret)).status).toBe(204);
  await becomes(() => asks('grey seal 12'), 'accept Deckhands');
  for (let i = 0; i < 12; i++) await asks(`guess ${i}`);
  expect(await asks('grey seal 12')).toBe('reject');
  expect((await ada.ask('DELETE', '/api/directory')).status).toBe(204);
  await becomes(() => asks('grey seal 12'), 'reject Not kept here');
  expect(await ada.get('/api/directory')).toEqual({ directory: null });
});
