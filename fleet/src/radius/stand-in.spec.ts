import { spawn } from 'node:child_process';
import { createSocket } from 'node:dgram';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeUsers } from '@iron-lattice/core/entry';
import { readDeviceFrame } from '@iron-lattice/core/line';
import {
  octetsOfText,
  PROOF,
  sealAccess,
  sealResponse,
  textAttribute,
  type AskedFor,
  type AskedServer,
  type Exchange,
} from '@iron-lattice/core/radius';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { DIRECTORY, SECRET } from './directory.fixture';
import { askServer } from './server-question';
import { StandIn } from './stand-in';
import { MadeUpAuthority } from './stand-in-certificates';

const [{ address, ...server }] = DIRECTORY.servers as [(typeof DIRECTORY.servers)[number]];
const standIn = new StandIn({ ...server, address }, DIRECTORY);
const folder = mkdtempSync(join(tmpdir(), 'radius-'));
beforeAll(() => standIn.listen(0));
afterAll(() => {
  standIn.close();
  rmSync(folder, { recursive: true });
});
beforeEach(() => {
  standIn.mood = null;
});

const KNOWN: AskedServer = {
  ...{ name: 'radius.test.example', address: '198.51.100.90', port: 1812, secret: SECRET },
  ...{ timeout: 0.2, tries: 2, macs: 'none_lower' },
};
const BY = { name: 'x-ap-01', address: '10.1.1.9', mac: '0e:c4:10:00:00:01', wireless: true };
const MARN: AskedFor = { method: 'pap', user: 'marn.ellis', password: 'lantern fish 4', at: 'Crew' };
const ask = (asked: Partial<AskedFor> = {}, as: Partial<AskedServer> = {}): Promise<Exchange> =>
  askServer({ ...KNOWN, ...as }, { ...MARN, ...asked }, BY, address, { host: '127.0.0.1', port: standIn.ports.auth });

test('each method is let in with the right password and not with a wrong one; what is answered is read', async () => {
  for (const method of ['pap', 'chap', 'eap-md5'] as const) {
    expect(await ask({ method })).toMatchObject({ end: 'accepted', filterIds: ['Crew'], sessionSeconds: 3600 });
    expect(await ask({ method, password: 'lantern fish 5' })).toMatchObject({ end: 'rejected', filterIds: [] });
    expect(await ask({ method, user: 'nobody' })).toMatchObject({ end: 'rejected' });
  }
  expect(await ask({ user: 'jory.pell', password: 'påskegås' })).toMatchObject({
    ...{ end: 'accepted', vlan: { kind: 'name', text: 'Ticketing' }, sessionSeconds: 600 },
  });
  const gate = await ask({ method: 'mac', user: '0E-C4-60-00-00-01', password: '' }, { macs: 'hyphen_upper' });
  expect(gate).toMatchObject({ end: 'accepted', vlan: { kind: 'name', text: 'Ticketing' } });
  const [asked] = gate.packets;
  const said = (name: string) => asked!.attributes.find((each) => each.name === name)?.value;
  expect([said('User-Name'), said('Service-Type'), said('Called-Station-Id'), said('User-Password')]).toEqual([
    '0E-C4-60-00-00-01',
    'Call Check',
    '0E-C4-10-00-00-01:Crew',
    '(not shown)',
  ]);
});

test('time in which the asker itself was held up is none that the server had', async () => {
  const relay = createSocket('udp4');
  let asker = 0;
  relay.on('message', (bytes, { port }) => {
    if (port === standIn.ports.auth) return relay.send(bytes, asker, '127.0.0.1');
    asker = port;
    const until = performance.now() + 500;
    while (performance.now() < until); // nothing in this process goes on meanwhile
    relay.send(bytes, standIn.ports.auth, '127.0.0.1');
  });
  await new Promise<void>((resolve) => relay.bind(0, '127.0.0.1', resolve));
  const place = { host: '127.0.0.1', port: relay.address().port };
  const heard = await askServer({ ...KNOWN, tries: 1 }, MARN, BY, address, place);
  relay.close();
  expect(`${heard.end} ${heard.sent}`).toBe('accepted 1');
});

test('what goes wrong is told apart', async () => {
  const end = async (mood: StandIn['mood'], as: Partial<AskedServer> = {}) => {
    standIn.mood = mood;
    const { end: is, sent } = await ask({}, as);
    return `${is} ${sent}`;
  };
  expect(await end(null, { secret: 'another secret altogether' })).toBe('silent 2'); // it is told nothing: RFC 3579 §3.2
  expect(await end('silent')).toBe('silent 2');
  expect(await end('wrong-secret')).toBe('unproven 2');
  expect(await end('reject-all')).toBe('rejected 1');
  expect((await ask()).why).toBe('It says: Nobody is let in today');
  expect(await end('slow')).toBe('silent 2');
  expect(await end('slow', { timeout: 2 })).toBe('accepted 1');
  standIn.mood = 'unknown-class';
  expect((await ask({ method: 'eap-md5' })).filterIds).toEqual(['Nobody’s class']);
  standIn.mood = null;
  const closed = createSocket('udp4');
  await new Promise<void>((resolve) => closed.bind(0, '127.0.0.1', resolve));
  const { port } = closed.address();
  await new Promise<void>((resolve) => closed.close(resolve));
  expect(await askServer(KNOWN, MARN, BY, address, { host: '127.0.0.1', port })).toMatchObject({
    end: 'closed',
    sent: 1,
  });
  expect(await ask({ user: 'x'.repeat(254) })).toMatchObject({ end: 'senseless', sent: 0 });
  expect(await ask({ user: 'nemo\u0000' })).toMatchObject({ end: 'rejected' });
});

test('a forged answer does not keep the true one from being heard', async () => {
  standIn.mood = 'slow';
  const asked = ask({}, { timeout: 3 });
  await new Promise<void>((resolve) => {
    const look = setInterval(() => {
      if (standIn.seen.at(-1)?.words !== 'let in (slow)') return;
      clearInterval(look);
      resolve();
    }, 5);
  });
  // From the server’s own port, as a forger on the way would.
  const from = standIn.seen.at(-1)!.from.split(':')[1]!;
  const sockets = (standIn as unknown as { sockets: ReturnType<typeof createSocket>[] }).sockets;
  const forged = new Uint8Array(20);
  forged.set([2, 0, 0, 20]);
  for (let id = 0; id < 256; id++)
    sockets[0]!.send(Uint8Array.of(2, id, 0, 20, ...forged.slice(4)), Number(from), '127.0.0.1');
  sockets[0]!.send(Uint8Array.of(2, 0, 0, 99), Number(from), '127.0.0.1');
  expect(await asked).toMatchObject({ end: 'accepted' });
});

test('an answer stuffed with attributes is told as far as a frame has room', async () => {
  const hostile = createSocket('udp4');
  await new Promise<void>((resolve) => hostile.bind(0, '127.0.0.1', resolve));
  const secret = octetsOfText(SECRET);
  hostile.on('message', (bytes, { port }) => {
    const stuffed = Array.from({ length: 2000 }, () => ({ type: 11, value: new Uint8Array() }));
    const asked = new Uint8Array(bytes.subarray(4, 20));
    const answer = {
      code: 2 as const,
      id: bytes[1]!,
      attributes: [PROOF, textAttribute(18, '\u0000'.repeat(253)), ...stuffed],
    };
    hostile.send(
      sealResponse({ ...answer, attributes: answer.attributes.slice(0, 1900) }, asked, secret).bytes,
      port,
      '127.0.0.1',
    );
  });
  const exchange = await askServer(KNOWN, MARN, BY, address, { host: '127.0.0.1', port: hostile.address().port });
  hostile.close();
  expect([exchange.end, exchange.filterIds.length]).toEqual(['accepted', 198]);
  const frame = { type: 'answer', id: 'x', ok: true, text: exchange.why, exchange };
  expect(readDeviceFrame(JSON.stringify(frame))).toMatchObject({ ok: true });
});

test('one request sent again is judged once; many with one identifier are told apart; senseless ones are left alone', async () => {
  const secret = octetsOfText(SECRET);
  const socket = createSocket('udp4');
  const got: Buffer[] = [];
  socket.on('message', (bytes) => got.push(bytes));
  await new Promise<void>((resolve) => socket.bind(0, '127.0.0.1', resolve));
  const to = (bytes: Uint8Array): void => void socket.send(bytes, standIn.ports.auth, '127.0.0.1');
  const until = async (count: number): Promise<void> => {
    while (got.length < count) await new Promise((resolve) => setImmediate(resolve));
  };
  const request = (mark: number) =>
    sealAccess(
      { code: 1, id: 9, attributes: [PROOF, textAttribute(1, 'nobody')] },
      new Uint8Array(16).fill(mark),
      secret,
    );
  const again = request(1).bytes;
  for (let i = 0; i < 3; i++) to(again);
  await until(3);
  expect(new Set(got.map((bytes) => bytes.toString('hex'))).size).toBe(1);
  for (let mark = 2; mark < 66; mark++) to(request(mark).bytes);
  await until(67);
  expect(new Set(got.slice(3).map((bytes) => bytes.toString('hex'))).size).toBe(64);
  for (const bytes of [
    [],
    [1],
    [1, 9, 0, 255],
    [1, 9, 0, 20, ...new Uint8Array(16)],
    [99, 9, 0, 20, ...new Uint8Array(16)],
  ])
    to(Uint8Array.from(bytes));
  to(request(200).bytes.map((octet, i) => (i === 30 ? octet ^ 1 : octet))); // its proof no longer holds
  to(request(201).bytes);
  await until(68);
  expect(got).toHaveLength(68);
  socket.close();
});

/** What a program prints. */
function printed(command: string, args: readonly string[], input = ''): Promise<string> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args);
    const chunks: Buffer[] = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk: Buffer) => chunks.push(chunk));
    child.once('error', reject);
    child.once('close', () => resolve(Buffer.concat(chunks).toString()));
    child.stdin.end(input);
  });
}

test('radclient, which we did not write, is answered as it should be, and proves our answers', async () => {
  const says = async (line: string, secret = SECRET): Promise<string> => {
    const to = `127.0.0.1:${standIn.ports.auth}`;
    const all = await printed(
      'radclient',
      ['-x', '-r', '1', '-t', '1', to, 'auth', secret],
      `${line},Message-Authenticator=0x00`,
    );
    return /Received (Access-\w+)/.exec(all)?.[1] ?? 'nothing';
  };
  const user = 'User-Name="marn.ellis"';
  expect(await says(`${user},User-Password="lantern fish 4"`)).toBe('Access-Accept');
  expect(await says(`${user},User-Password="lantern fish 5"`)).toBe('Access-Reject');
  expect(await says(`${user},CHAP-Password="lantern fish 4"`)).toBe('Access-Accept');
  expect(await says(`${user},CHAP-Password="lantern fish 5"`)).toBe('Access-Reject');
  expect(await says('User-Name="nobody",User-Password="x"')).toBe('Access-Reject');
  expect(await says(`${user},User-Password="lantern fish 4"`, 'another secret')).toBe('nothing');
  // It reads the key of a ring by itself, and where that leads.
  const named = await printed(
    'radclient',
    ['-x', '-r', '1', '-t', '1', `127.0.0.1:${standIn.ports.auth}`, 'auth', SECRET],
    'User-Name="0ec460000009",User-Password="0ec460000009",Message-Authenticator=0x00',
  );
  expect(named).toMatch(/Tunnel-Password:1 = "berth nine key"/);
  expect(named).toMatch(/Tunnel-Private-Group-Id:1 = "Berth 9"/);
  const accounting = `127.0.0.1:${standIn.ports.accounting}`;
  const started = 'Acct-Status-Type=Start,Acct-Session-Id="s1",User-Name="marn.ellis"';
  expect(await printed('radclient', ['-x', '-r', '1', '-t', '1', accounting, 'acct', SECRET], started)).toContain(
    'Received Accounting-Response',
  );
});

test('methods that begin with TLS let in with keys for the air, and say no password to whom they do not believe', async () => {
  const authority = standIn.authority!.pem;
  for (const method of ['eap-ttls', 'peap'] as const) {
    const good = await ask({ method }, { authority, certificateName: 'radius.test.example', timeout: 2 });
    expect(good).toMatchObject({
      ...{ end: 'accepted', filterIds: ['Crew'], keys: true },
      certificate: { names: ['radius.test.example'], issuer: 'Made-up authority', trust: 'yes' },
    });
    expect(readDeviceFrame(JSON.stringify({ type: 'answer', id: 'x', ok: true, text: '', exchange: good })).ok).toBe(
      true,
    );
    expect(await ask({ method, password: 'lantern fish 5' }, { timeout: 2 })).toMatchObject({ end: 'rejected' });
    expect(await ask({ method, user: 'nobody' }, { timeout: 2 })).toMatchObject({ end: 'rejected' });
    expect((await ask({ method }, { timeout: 2 })).certificate!.trust).toBe('unchecked');
    standIn.seen.length = 0;
    const other = await ask({ method }, { authority, certificateName: 'other.example', timeout: 2 });
    expect([other.end, other.why]).toEqual(['untrusted', 'It is for radius.test.example, not for other.example.']);
    const stranger = (await MadeUpAuthority.make('Somebody')).pem;
    expect(await ask({ method }, { authority: stranger, timeout: 2 })).toMatchObject({ end: 'untrusted' });
    expect(standIn.seen.some(({ words }) => words === 'let in')).toBe(false);
  }
  expect(await ask({ method: 'eap-ttls', user: 'jory.pell', password: 'påskegås' }, { timeout: 2 })).toMatchObject({
    end: 'accepted',
  });
});

test('eapol_test, which we did not write, goes through TLS, TTLS and PEAP with it, and learns the same keys', async () => {
  const user = await standIn.authority!.issue('marn.ellis', 'user');
  const over = await standIn.authority!.issue('marn.ellis', 'user', -1);
  const other = await standIn.authority!.issue('dell.farrow', 'user');
  const files = { ca: standIn.authority!.pem, cert: user.cert, key: user.key };
  const more = { overcert: over.cert, overkey: over.key, othercert: other.cert, otherkey: other.key };
  for (const [name, text] of Object.entries({ ...files, ...more })) writeFileSync(join(folder, `${name}.pem`), text);
  const at = (name: string): string => `"${join(folder, name)}.pem"`;
  const ends = async (lines: readonly string[]): Promise<string> => {
    const path = join(folder, 'tls.conf');
    const all = ['key_mgmt=WPA-EAP', 'identity="marn.ellis"', `ca_cert=${at('ca')}`, ...lines];
    writeFileSync(path, `network={\n ${all.join('\n ')}\n}\n`);
    const port = String(standIn.ports.auth);
    const args = ['-c', path, '-a', '127.0.0.1', '-p', port, '-s', SECRET, '-r', '0', '-t', '5'];
    return (await printed('eapol_test', args)).trim().split('\n').at(-1)!;
  };
  const password = 'password="lantern fish 4"';
  const wrong = 'password="lantern fish 5"';
  expect(await ends(['eap=TTLS', 'phase2="auth=PAP"', password])).toBe('SUCCESS');
  expect(await ends(['eap=TTLS', 'phase2="auth=PAP"', wrong])).toBe('FAILURE');
  expect(await ends(['eap=PEAP', 'phase2="auth=MSCHAPV2"', password])).toBe('SUCCESS');
  expect(await ends(['eap=PEAP', 'phase2="auth=MSCHAPV2"', wrong])).toBe('FAILURE');
  expect(await ends(['eap=TLS', `client_cert=${at('cert')}`, `private_key=${at('key')}`])).toBe('SUCCESS');
  expect(await ends(['eap=TLS', `client_cert=${at('overcert')}`, `private_key=${at('overkey')}`])).toBe('FAILURE');
  expect(await ends(['eap=TLS', `client_cert=${at('othercert')}`, `private_key=${at('otherkey')}`])).toBe('FAILURE');
});

test('eapol_test, which we did not write, goes through EAP-MD5 with it', async () => {
  const ends = async (password: string): Promise<string> => {
    const path = join(folder, 'md5.conf');
    writeFileSync(
      path,
      `network={\n key_mgmt=IEEE8021X\n eap=MD5\n identity="marn.ellis"\n password="${password}"\n}\n`,
    );
    const args = [
      '-c',
      path,
      '-a',
      '127.0.0.1',
      '-p',
      String(standIn.ports.auth),
      '-s',
      SECRET,
      '-n',
      '-r',
      '0',
      '-t',
      '5',
    ];
    return (await printed('eapol_test', args)).trim().split('\n').at(-1)!;
  };
  expect(await ends('lantern fish 4')).toBe('SUCCESS');
  expect(await ends('lantern fish 5')).toBe('FAILURE');
});

test('FreeRADIUS, which we did not write, answers what our devices ask', async () => {
  const probe = createSocket('udp4');
  await new Promise<void>((resolve) => probe.bind(0, '127.0.0.1', resolve));
  const { port } = probe.address();
  await new Promise<void>((resolve) => probe.close(resolve));
  writeFileSync(join(folder, 'radiusd.conf'), freeradius(folder, port));
  const rings = [{ ssid: 'Berths', user: '0ec460000007', byClass: null, segments: ['Berth 1', 'Berth 7'] }];
  const keys = ['berth one key', 'berth seven key'];
  const berth = writeUsers({ answers: [], rings }).replaceAll('ENTER-THE-KEY-HERE', () => keys.shift()!);
  const marn = 'marn.ellis Cleartext-Password := "lantern fish 4"\n\tFilter-Id = "Crew"\n';
  writeFileSync(join(folder, 'users'), `${marn}\n${berth}`);
  const child = spawn('freeradius', ['-f', '-l', 'stdout', '-d', folder, '-n', 'radiusd']);
  const said: Buffer[] = [];
  await new Promise<void>((resolve, reject) => {
    child.stdout.on('data', (chunk: Buffer) => {
      said.push(chunk);
      if (Buffer.concat(said).includes('Ready to process requests')) resolve();
    });
    child.once('exit', () => reject(new Error(Buffer.concat(said).toString())));
  });
  try {
    const to = { host: '127.0.0.1', port };
    const asks = (asked: Partial<AskedFor>, as: Partial<AskedServer> = {}) =>
      askServer({ ...KNOWN, timeout: 1, ...as }, { ...MARN, ...asked }, BY, address, to);
    for (const method of ['pap', 'chap', 'eap-md5'] as const) {
      expect(await asks({ method }, { unsigned: true })).toMatchObject({ end: 'accepted', filterIds: ['Crew'] });
      expect(await asks({ method, password: 'x' }, { unsigned: true, timeout: 3 })).toMatchObject({ end: 'rejected' });
    }
    // Of EAP it proves its answers; a release from before that was usual does not prove those to passwords.
    expect(await asks({ method: 'eap-md5' })).toMatchObject({ end: 'accepted' });
    expect(['accepted', 'unsigned']).toContain((await asks({}, { timeout: 0.2 })).end);
    expect(await asks({}, { secret: 'another secret', timeout: 0.2 })).toMatchObject({ end: 'silent' });
    const berth = { method: 'mac', user: '0e:c4:60:00:00:07', password: '', gives: 'berth seven key' } as const;
    expect((await asks(berth, { unsigned: true })).ring).toEqual([
      { vlan: { kind: 'name', text: 'Berth 1' } },
      { vlan: { kind: 'name', text: 'Berth 7' }, given: true },
    ]);
  } finally {
    child.removeAllListeners('exit');
    child.kill('SIGKILL');
  }
});

/** As little of a configuration as answers. */
const freeradius = (at: string, port: number): string => `
name = radiusd
prefix = /usr
libdir = /usr/lib/freeradius
raddbdir = ${at}
logdir = ${at}
run_dir = ${at}
security {
  reject_delay = 0
}
client local {
  ipaddr = 127.0.0.1
  secret = ${SECRET}
  require_message_authenticator = yes
}
thread pool {
  start_servers = 1
  max_servers = 2
}
modules {
  pap { }
  chap { }
  files { usersfile = ${at}/users }
  eap {
    default_eap_type = md5
    md5 { }
  }
}
server default {
  listen {
    type = auth
    ipaddr = 127.0.0.1
    port = ${port}
  }
  authorize {
    files
    chap
    eap
    pap
  }
  authenticate {
    Auth-Type PAP {
      pap
    }
    Auth-Type CHAP {
      chap
    }
    eap
  }
}
`;
