// What a fresh machine lacks: Debian packages and dependencies. Every step looks first and is silent when done.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { existsSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { binFolder } from './pg.mjs';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** Runs a program to its end, showing what it prints. Exits with its code when it fails. */
export function must(command, args, options = {}) {
  const result = spawnSync(command, args, { stdio: 'inherit', cwd: root, ...options });
  if (result.status !== 0) {
    console.error(`${command} ${args.join(' ')} failed.`);
    process.exit(result.status ?? 1);
  }
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > 20 || (major === 20 && minor >= 19)) return;
  console.error(`Iron Lattice needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
  process.exit(1);
}

/** The balancer of several controllers. */
export const HAPROXY = '/usr/sbin/haproxy';

/** Debian packages by what shows that they are there. */
const PACKAGES = {
  postgresql: () => binFolder() !== null,
  haproxy: () => existsSync(HAPROXY),
  chromium: () => existsSync('/usr/bin/chromium'),
  'openvswitch-switch': () => existsSync('/usr/sbin/ovs-vswitchd'),
  'libyang2-tools': () => existsSync('/usr/bin/yanglint'),
  'libyuma-base': () => existsSync('/usr/share/yuma/modules'),
  'kea-dhcp4-server': () => existsSync('/usr/sbin/kea-dhcp4'),
  'freeradius-utils': () => existsSync('/usr/bin/radclient'),
  freeradius: () => existsSync('/usr/sbin/freeradius'),
  slapd: () => existsSync('/usr/sbin/slapd'),
  'ldap-utils': () => existsSync('/usr/bin/ldapsearch'),
  eapoltest: () => existsSync('/usr/bin/eapol_test') || existsSync('/usr/sbin/eapol_test'),
  hostapd: () => existsSync('/usr/sbin/hostapd'),
  nftables: () => existsSync('/usr/sbin/nft'),
  python3: () => existsSync('/usr/bin/python3'),
  'wireguard-tools': () => existsSync('/usr/bin/wg'),
  'wireguard-go': () => existsSync('/usr/bin/wireguard-go'),
  'charon-systemd': () => existsSync('/usr/sbin/charon-systemd'),
  'strongswan-swanctl': () => existsSync('/usr/sbin/swanctl'),
  'libstrongswan-standard-plugins': () => existsSync('/usr/lib/ipsec/plugins/libstrongswan-gcm.so'),
  'libcharon-extra-plugins': () => existsSync('/usr/lib/ipsec/plugins/libstrongswan-kernel-libipsec.so'),
  'libstrongswan-extra-plugins': () => existsSync('/usr/lib/ipsec/plugins/libstrongswan-chapoly.so'),
  keepalived: () => existsSync('/usr/sbin/keepalived'),
  'iputils-ping': () => existsSync('/usr/bin/ping') || existsSync('/bin/ping'),
  iproute2: () => existsSync('/usr/sbin/ip') || existsSync('/sbin/ip'),
  'poppler-utils': () => existsSync('/usr/bin/pdftotext'), // reads the files of slips
  tcpdump: () => existsSync('/usr/bin/tcpdump') || existsSync('/usr/sbin/tcpdump'),
};

export function ensurePackages(...names) {
  const missing = names.filter((name) => !PACKAGES[name]());
  if (missing.length === 0) return;
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get')) {
    console.error(`Please install: ${missing.join(', ')}. On Debian: sudo apt-get install ${missing.join(' ')}`);
    process.exit(1);
  }
  console.log(`Installing ${missing.join(', ')} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  must('apt-get', ['-qq', 'update'], { env });
  must('apt-get', ['-qq', 'install', '-y', '--no-install-recommends', ...missing], {
    env,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
}

export function ensureDependencies() {
  const stamp = join(root, 'node_modules', '.lock-stamp');
  const lock = readFileSync(join(root, 'package-lock.json'));
  const wanted = createHash('sha256').update(lock).update(process.version).digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  console.log('Installing dependencies …');
  must('npm', ['ci', '--no-progress', '--loglevel=error']);
  writeFileSync(stamp, wanted);
}

/** Builds the interface when its sources differ from those of the last build. */
export async function ensureWeb() {
  const stamp = join(root, 'web', 'dist', '.stamp');
  const wanted = hashOfTree([
    'core/src',
    'web/src',
    'web/angular.json',
    'web/tsconfig.json',
    'web/package.json',
    'tsconfig.base.json',
    'package-lock.json',
  ]);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  console.log('Building the interface …');
  const building = spawn(process.execPath, [join(root, 'node_modules/@angular/cli/bin/ng.js'), 'build'], {
    cwd: join(root, 'web'),
    stdio: ['ignore', process.env.CI ? 'inherit' : 'ignore', 'inherit'],
  });
  const [code] = await once(building, 'close');
  if (code !== 0) throw new Error('The interface cannot be built; what stands above says why.');
  writeFileSync(stamp, wanted);
}

/** Hash of all files under some paths, without their tests. */
export function hashOfTree(paths) {
  const hash = createHash('sha256');
  const visit = (path) => {
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) visit(join(path, name));
    else if (!path.endsWith('.spec.ts')) hash.update(path.slice(root.length)).update('\0').update(readFileSync(path));
  };
  for (const path of paths) visit(join(root, path));
  return hash.digest('hex');
}
