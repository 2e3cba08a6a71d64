import { spawn } from 'node:child_process';
import { X509Certificate } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { connect, createServer, type TLSSocket } from 'node:tls';
import {
  supplicantProfile,
  type IssuedCertificate,
  type MadeCertificate,
  type OwnCertificateView,
  type UsersView,
} from '@iron-lattice/core/entry';
import type { EnterpriseSecurity } from '@iron-lattice/core/document';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { AskingEstate, ASKING_SECRET } from '../testing/asking-estate';
import { issue, makeAuthority, revocationList } from './certificates/authority';

const DAY = 86_400_000;
const folder = mkdtempSync(join(tmpdir(), 'certificates-'));
let estate: AskingEstate;
let own: OwnCertificateView;
const made: Record<string, MadeCertificate> = {};

/** Keeps users of a group here. */
async function keep(...names: string[]): Promise<void> {
  const users = names.map((name) => ({
    ...{ name, password: 'herring gull 9', groups: ['Deck'], until: null, most: null, off: false, note: '' },
  }));
  const response = await fetch(`${estate.setting.controller.url}/api/users`, {
    method: 'POST',
    headers: { cookie: estate.ada.cookie, 'content-type': 'application/octet-stream' },
    body: JSON.stringify(users),
  });
  expect(response.status).toBe(201);
}

beforeAll(async () => {
  estate = await AskingEstate.start('ENT-03');
  own = await estate.ada.get('/api/entry-certificate');
  await keep('marn.ellis', 'dell.farrow');
  for (const { name, id } of ((await estate.ada.get('/api/users')) as UsersView).users)
    made[name] = await estate.ada.post(`/api/users/${id}/certificates`, { label: 'laptop', days: 90 });
});
afterAll(async () => {
  rmSync(folder, { recursive: true });
  await estate.end();
});

/** How a client that we did not write fares with a profile of ours. */
async function enters(profile: string): Promise<string> {
  const path = join(folder, 'profile.conf');
  // It has no radio: what is of the air alone is left out.
  writeFileSync(
    path,
    profile.replace(/^ {2}(ieee80211w|key_mgmt)=.*$/gm, (line) =>
      line.includes('key_mgmt') ? '  key_mgmt=WPA-EAP' : '',
    ),
  );
  const { port, box } = estate;
  const args = ['-c', path, '-a', '127.0.0.1', '-p', String(port), '-s', ASKING_SECRET, '-r', '0', '-t', '5'];
  const called = `-N30:s:${box.mac.replaceAll(':', '-').toUpperCase()}:Crew deck`;
  const child = spawn('eapol_test', [...args, called, '-M', '02:00:00:00:00:77']);
  const said: Buffer[] = [];
  child.stdout.on('data', (chunk: Buffer) => said.push(chunk));
  await new Promise((resolve) => child.once('close', resolve));
  return Buffer.concat(said).toString().trim().split('\n').at(-1)!;
}
const profileOf = (
  name: string,
  by = made[name]!,
  server = own.name,
  security: EnterpriseSecurity = 'wpa2-enterprise',
): string =>
  supplicantProfile({
    ...{ ssid: 'Crew deck', security, user: name, certificate: by },
    server: { name: server, authority: own.authority },
  });
/** What changed is heard of a moment later by the thread that answers. */
async function becomes(profile: string, is: string): Promise<void> {
  for (let tries = 0; tries < 20 && (await enters(profile)) !== is; tries++)
    await new Promise((go) => setTimeout(go, 50));
  expect(await enters(profile)).toBe(is);
}
const all = (): Promise<(IssuedCertificate & { userId: string | null })[]> => estate.ada.get('/api/certificates');

test('a user’s certificate is of the estate’s authority, for that user alone, and nobody keeps its key', async () => {
  const marn = made['marn.ellis']!;
  const cert = new X509Certificate(marn.cert);
  expect(cert.verify(new X509Certificate(own.authority).publicKey)).toBe(true);
  expect(cert.subject).toBe('CN=marn.ellis');
  expect(Math.round((Date.parse(cert.validTo) - Date.now()) / DAY)).toBe(90);
  expect((await all()).find(({ serial }) => serial === marn.serial)).toMatchObject({
    ...{ kind: 'user', name: 'marn.ellis', label: 'laptop', by: 'Ada', revokedAt: null },
  });
  const [tables] = await estate.setting.controller.database.query(`SELECT to_jsonb(i) AS row FROM entry_issued i`);
  expect(JSON.stringify(tables)).not.toContain('PRIVATE KEY');
  const oli = await estate.setting.as('oli');
  const { userId } = (await all())[0]!;
  expect((await oli.ask('POST', `/api/users/${userId}/certificates`, { label: '', days: 9 })).status).toBe(403);
  for (const [body, status] of [
    [{ label: 'x'.repeat(41), days: 9 }, 422],
    [{ label: '', days: 1096 }, 400],
    [{ label: 'a\u0007', days: 9 }, 400],
  ] as const)
    expect((await estate.ada.ask('POST', `/api/users/${userId}/certificates`, body)).status).toBe(status);
});

test('eapol_test, which we did not write, signs in by a profile of ours, with a certificate or a password, and by nobody else’s', async () => {
  await becomes(profileOf('marn.ellis'), 'SUCCESS');
  // That of another user, and a server by another name.
  expect(await enters(profileOf('marn.ellis', made['dell.farrow']))).toBe('FAILURE');
  expect(await enters(profileOf('marn.ellis', made['marn.ellis'], 'other.example'))).toBe('FAILURE');
  const by = { ssid: 'Crew deck', security: 'wpa2-enterprise' as const, server: own };
  const typed = supplicantProfile({ ...by, user: 'marn.ellis' }).replace('password="…"', 'password="herring gull 9"');
  expect(await enters(typed)).toBe('SUCCESS');
  expect(await enters(typed.replace('gull 9', 'gull 8'))).toBe('FAILURE');
});

test('keys have 384 bits, by which 192-bit mode goes; an authority that a version before made keeps to its own', async () => {
  expect(own.bits).toBe(384);
  const curves = [own.authority, made['marn.ellis']!.cert].map(
    (cert) => new X509Certificate(cert).publicKey.asymmetricKeyDetails?.namedCurve,
  );
  expect(curves).toEqual(['secp384r1', 'secp384r1']);
  // A client that takes nothing shorter (SUITEB192), which we did not write.
  await becomes(profileOf('marn.ellis', made['marn.ellis'], own.name, 'wpa3-enterprise-192'), 'SUCCESS');
  const short = await makeAuthority('Before', 256);
  const issued = await issue(short, { kind: 'user', name: 'marn.ellis' });
  expect(new X509Certificate(issued.cert).publicKey.asymmetricKeyDetails?.namedCurve).toBe('prime256v1');
  expect(new X509Certificate(issued.cert).verify(new X509Certificate(short.cert).publicKey)).toBe(true);
  expect((await revocationList(short, [])).length).toBeGreaterThan(100);
});

test('an estate whose authority has 256 bits is told that 192-bit mode lets nobody in', async () => {
  const { database } = estate.setting.controller;
  const short = await makeAuthority('Before', 256);
  const [[before]] = (await database.query(`SELECT id, cert FROM entry_certificate WHERE kind = 'authority'`)) as [
    { id: string; cert: string }[],
    unknown,
  ];
  const { estate: shared } = await estate.ada.get(`/api/drafts/current/sites/${estate.siteId}`);
  const ssid = shared.ssids.find(({ name }: { name: string }) => name === 'Crew deck');
  const { security, passphrase } = ssid;
  const [from, to] = [
    { security, passphrase },
    { security: 'wpa3-enterprise-192' as const, passphrase: null },
  ];
  expect((await estate.edit([{ type: 'ssid.set', ssidId: ssid.id, from, to }])).status).toBe(200);
  const codes = async (): Promise<string[]> => {
    const { consequences } = await estate.ada.get(`/api/drafts/current/sites/${estate.siteId}`);
    return consequences.findings.map(({ code }: { code: string }) => code);
  };
  expect(await codes()).not.toContain('entry.certificates-alone');
  const put = (cert: string) =>
    database.query('UPDATE entry_certificate SET cert = :cert WHERE id = :id', {
      replacements: { cert, id: before!.id },
    });
  await put(short.cert);
  expect(await codes()).toContain('entry.certificates-alone');
  await put(before!.cert);
  expect(await codes()).not.toContain('entry.certificates-alone');
  await estate.edit([{ type: 'ssid.set', ssidId: ssid.id, from: to, to: from }]);
});

test('one that was taken back is taken nowhere: not here, and not by others who believe the authority', async () => {
  const { ada } = estate;
  const [marn, dell] = [made['marn.ellis']!, made['dell.farrow']!];
  const quay: MadeCertificate = await ada.post('/api/server-certificates', { name: 'Quay.radius.internal', days: 30 });
  expect(quay.name).toBe('quay.radius.internal');
  const believes = async ({ cert, key }: MadeCertificate): Promise<string> => {
    const list = new Uint8Array(await (await fetch(`${estate.setting.controller.url}/api/revocations`)).arrayBuffer());
    const crl = `-----BEGIN X509 CRL-----\n${Buffer.from(list).toString('base64')}\n-----END X509 CRL-----\n`;
    const server = createServer({
      cert: quay.cert,
      key: quay.key,
      ca: own.authority,
      crl,
      requestCert: true,
      rejectUnauthorized: false,
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const judged = new Promise<string>((resolve) =>
      server.once('secureConnection', (socket: TLSSocket) =>
        resolve(socket.authorized ? 'yes' : String(socket.authorizationError)),
      ),
    );
    const { port } = server.address() as { port: number };
    const client = connect({ host: '127.0.0.1', port, cert, key, ca: own.authority, servername: quay.name });
    const answer = await judged;
    client.destroy();
    server.close();
    return answer;
  };
  expect(await believes(marn)).toBe('yes');
  const oli = await estate.setting.as('oli');
  expect((await oli.ask('POST', `/api/certificates/${marn.serial}/revoke`)).status).toBe(403);
  expect((await ada.ask('POST', `/api/certificates/${marn.serial}/revoke`)).status).toBe(204);
  expect((await ada.ask('POST', `/api/certificates/${marn.serial}/revoke`)).status).toBe(404);
  await becomes(profileOf('marn.ellis'), 'FAILURE');
  expect(await believes(marn)).toBe('CERT_REVOKED');
  expect(await believes(dell)).toBe('yes');
  expect(await enters(profileOf('dell.farrow'))).toBe('SUCCESS');
  // Of a user who is taken away none is taken either.
  const { userId } = (await all()).find(({ serial }) => serial === dell.serial)!;
  await ada.post('/api/users/remove', { ids: [userId] });
  await becomes(profileOf('dell.farrow'), 'FAILURE');
});

test('the certificate of another server is for no other name than its own, and never for the controller’s', async () => {
  for (const name of ['quay', 'a b.example', `${'x'.repeat(60)}.example`, own.name, own.name.toUpperCase()])
    expect((await estate.ada.ask('POST', '/api/server-certificates', { name, days: 30 })).status).toBe(422);
});

test('a certificate that ends within 30 days is found, of a user and of a server, until another follows it or it is taken back', async () => {
  const { ada, siteId } = estate;
  const found = async (): Promise<string[]> => {
    const { consequences } = await ada.get(`/api/drafts/current/sites/${siteId}`);
    const { findings } = consequences as { findings: { code: string; message: string }[] };
    return findings.flatMap(({ code, message }) => (code === 'entry.certificate-ends' ? [message] : []));
  };
  // One of a server, made before for 30 days.
  expect(await found()).toEqual([expect.stringMatching(/made for quay\.radius\.internal ends on/)]);
  const quay = (await all()).find(({ name }) => name === 'quay.radius.internal')!;
  await ada.post(`/api/certificates/${quay.serial}/revoke`, {});
  expect(await found()).toEqual([]);
  await keep('jory.pell');
  const { users } = (await ada.get('/api/users')) as UsersView;
  const make = (name: string, label: string, days: number): Promise<MadeCertificate> =>
    ada.post(`/api/users/${users.find((each) => each.name === name)!.id}/certificates`, { label, days });
  const soon = await make('marn.ellis', 'tablet', 20);
  const day = new Date(soon.until).toISOString().slice(0, 10);
  expect(await found()).toEqual([`The certificate of marn.ellis ends on ${day}`]);
  const other = await make('jory.pell', 'tablet', 25);
  expect(await found()).toEqual(['Certificates of 2 users end within 30 days']);
  // Another of the same name and label follows the first; the second is taken back.
  await make('marn.ellis', 'tablet', 300);
  await ada.post(`/api/certificates/${other.serial}/revoke`, {});
  expect(await found()).toEqual([]);
});
