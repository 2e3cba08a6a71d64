import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { issue, makeAuthority } from '../entry/certificates/authority';

const BASE = 'dc=quay,dc=example';

/** What it knows. */
export const SLAPD = {
  base: BASE,
  account: { dn: `cn=lattice,ou=services,${BASE}`, password: 'reads names, and groups' },
  /** May look at what passwords are kept as, which it should not. */
  greedy: { dn: `cn=greedy,ou=services,${BASE}`, password: 'reads all of it' },
} as const;

const person = (uid: string, cn: string, password: string): string =>
  `dn: uid=${uid},ou=people,${BASE}\nobjectClass: inetOrgPerson\nuid: ${uid}\ncn: ${cn}\nsn: ${cn}\nuserPassword: ${password}\n`;
const LDIF = [
  `dn: ${BASE}\nobjectClass: dcObject\nobjectClass: organization\ndc: quay\no: Quay\n`,
  ...['people', 'groups', 'services'].map((ou) => `dn: ou=${ou},${BASE}\nobjectClass: organizationalUnit\nou: ${ou}\n`),
  ...[SLAPD.account, SLAPD.greedy].map(
    ({ dn, password }) =>
      `dn: ${dn}\nobjectClass: organizationalRole\nobjectClass: simpleSecurityObject\nuserPassword: ${password}\n`,
  ),
  person('ebba.strand', 'Ebba Strand', 'grey seal 12'),
  person('odd(*)name', 'Odd', 'grey seal 13'),
  person('twin', 'Twin', 'grey seal 14'),
  person('other', 'Other', 'grey seal 15').replace('uid: other', 'uid: other\nuid: twin'),
  `dn: cn=Deck\\2C aft,ou=groups,${BASE}\nobjectClass: groupOfNames\ncn: Deck, aft\nmember: uid=ebba.strand,ou=people,${BASE}\n`,
  `dn: cn=Engine,ou=groups,${BASE}\nobjectClass: groupOfNames\ncn: Engine\nmember: uid=ebba.strand,ou=people,${BASE}\n`,
].join('\n');

/** A directory that we did not write (OpenLDAP’s slapd), with an authority of its own. */
export async function startSlapd(): Promise<{ port: number; securePort: number; authority: string; stop: () => void }> {
  const folder = mkdtempSync(join(tmpdir(), 'slapd-'));
  const authority = await makeAuthority('Quay authority');
  const { cert, key } = await issue(authority, { kind: 'server', name: 'localhost' });
  const path = (name: string): string => join(folder, name);
  mkdirSync(path('db'));
  for (const [name, text] of Object.entries({
    'cert.pem': cert,
    'key.pem': key,
    'ca.pem': authority.cert,
    'all.ldif': LDIF,
  }))
    writeFileSync(path(name), text);
  writeFileSync(
    path('slapd.conf'),
    [
      ...['core', 'cosine', 'inetorgperson'].map((each) => `include /etc/ldap/schema/${each}.schema`),
      ...['modulepath /usr/lib/ldap', 'moduleload back_mdb', `pidfile ${path('pid')}`],
      ...[`TLSCertificateFile ${path('cert.pem')}`, `TLSCertificateKeyFile ${path('key.pem')}`],
      ...[`TLSCACertificateFile ${path('ca.pem')}`, 'sizelimit 3', 'database mdb', `suffix "${BASE}"`],
      ...[`directory ${path('db')}`, `rootdn "cn=root,${BASE}"`, 'maxsize 10485760'],
      `access to attrs=userPassword by dn.exact="${SLAPD.greedy.dn}" read by anonymous auth by * none`,
      `access to * by dn.subtree="ou=services,${BASE}" read by anonymous none by * none`,
      '',
    ].join('\n'),
  );
  const added = spawnSync('/usr/sbin/slapadd', ['-f', path('slapd.conf'), '-l', path('all.ldif')], {
    encoding: 'utf8',
  });
  if (added.status !== 0) throw new Error(added.stderr);
  const [port, securePort] = [await freePort(), await freePort()];
  const urls = `ldap://127.0.0.1:${port} ldaps://127.0.0.1:${securePort}`;
  const child = spawn('/usr/sbin/slapd', ['-f', path('slapd.conf'), '-h', urls, '-d', '0'], { stdio: 'ignore' });
  for (let tries = 0; !(await answers(securePort)); tries++) {
    if (tries > 200) throw new Error('slapd does not listen');
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  const stop = (): void => {
    child.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  };
  return { port, securePort, authority: authority.cert, stop };
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });
}

const answers = (port: number): Promise<boolean> =>
  new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    socket.once('connect', () => resolve(true));
    socket.once('error', () => resolve(false));
    socket.once('close', () => socket.destroy());
    socket.once('connect', () => socket.destroy());
  });
