import { isIP } from 'node:net';
import { join } from 'node:path';
import { StartRefusal } from './start-refusal';
import type { TlsFiles } from './tls-files';

/** All that is set from outside; defaults are for a controller on one machine. */
export interface Config {
  readonly databaseUrl: string;
  readonly host: string;
  /** 0 for any free port. */
  readonly port: number;
  /** File with the 32-byte key that seals secrets; made on first start. */
  readonly secretKeyFile: string;
  /** Folder of the built interface, or null to serve the API alone. */
  readonly webRoot: string | null;
  readonly logLevel: string;
  /** Where log lines go, as JSON; null for standard output. */
  readonly logFile: string | null;
  /** How long a device waits for the controller's word before it takes a document back. */
  readonly keepWithinSeconds: number;
  readonly reportSeconds: number;
  readonly beatSeconds: number;
  /** UDP port at which devices that wait for a controller answer sweeps. */
  readonly sweepPort: number;
  /** UDP port at which this controller answers who somebody is (RADIUS), and beside it what sessions come to; 0 for any free ones, null: it does not. */
  readonly entryPort: number | null;
  /** Port at which guests sign in; 0 for any free one, null: they cannot. */
  readonly portalPort: number | null;
  /** Where guests find that, when it is not where it listens. */
  readonly portalUrl: string | null;
  /** Where the certificate of that page stands, so that guests come by HTTPS; null: whoever is in front speaks it, or nobody. */
  readonly portalTls: TlsFiles | null;
  /** Where devices and installers find this controller, when it is not where it listens. */
  readonly publicUrl: string | null;
  /** Balancers in front of this controller, by address: who they say that a request comes from is believed. */
  readonly proxies: readonly string[];
  /** Sign-in attempts that fail, a minute from one address. */
  readonly signInsPerMinute: number;
  /** Devices that nobody announced which may wait to be claimed, from one address. */
  readonly strangersAnAddress: number;
}

/** Reads the environment. @throws StartRefusal for a setting that is none. */
export function configFromEnv(env: NodeJS.ProcessEnv, root: string): Config {
  const number = (name: string, otherwise: number, least: number, most: number, whole = true): number => {
    const text = env[name] ?? String(otherwise);
    const value = text.trim() === '' ? NaN : Number(text);
    if (!(value >= least && value <= most) || (whole && !Number.isInteger(value)))
      throw new StartRefusal(`${name} is a ${whole ? 'whole ' : ''}number from ${least} to ${most}, not “${text}”.`);
    return value;
  };
  const port = (name: string, otherwise: number): number => number(name, otherwise, 0, 65_535);
  const databaseUrl = env['DATABASE_URL'];
  if (!databaseUrl) throw new StartRefusal('DATABASE_URL is not set; npm start sets it.');
  const pageFrom = (name: string): string | null => {
    const url = env[name] ?? null;
    if (url !== null && !(URL.canParse(url) && /^https?:$/.test(new URL(url).protocol)))
      throw new StartRefusal(`${name} is a URL such as https://lattice.example, not “${url}”.`);
    return url;
  };
  const publicUrl = pageFrom('LATTICE_PUBLIC_URL');
  const [portalCert, portalKey] = [env['LATTICE_PORTAL_CERT'], env['LATTICE_PORTAL_KEY']];
  if (Boolean(portalCert) !== Boolean(portalKey))
    throw new StartRefusal(
      'LATTICE_PORTAL_CERT and LATTICE_PORTAL_KEY name two files that go together: set both, or none.',
    );
  const portalTls = portalCert && portalKey ? { cert: portalCert, key: portalKey } : null;
  const proxies = (env['LATTICE_PROXIES'] ?? '')
    .split(',')
    .map((address) => address.trim())
    .filter((address) => address !== '');
  const odd = proxies.find((address) => isIP(address) === 0);
  if (odd !== undefined)
    throw new StartRefusal(`LATTICE_PROXIES is a list of addresses such as 10.9.0.4, not “${odd}”.`);
  return {
    databaseUrl,
    host: env['LATTICE_HOST'] ?? '127.0.0.1',
    port: port('LATTICE_PORT', 8620),
    secretKeyFile: env['LATTICE_SECRET_KEY'] ?? join(root, '.data', 'secret.key'),
    webRoot: join(root, 'web', 'dist', 'web', 'browser'),
    logLevel: env['LATTICE_LOG'] ?? 'warn',
    logFile: env['LATTICE_LOG_FILE'] ?? null,
    keepWithinSeconds: number('LATTICE_KEEP_WITHIN', 10, 0.1, 600, false),
    reportSeconds: number('LATTICE_REPORT_SECONDS', 30, 0.01, 3600, false),
    beatSeconds: number('LATTICE_BEAT_SECONDS', 15, 0.1, 600, false),
    sweepPort: port('LATTICE_SWEEP_PORT', 8622),
    entryPort: env['LATTICE_ENTRY_PORT'] === 'off' ? null : port('LATTICE_ENTRY_PORT', 1812),
    portalPort: env['LATTICE_PORTAL_PORT'] === 'off' ? null : port('LATTICE_PORTAL_PORT', 8624),
    portalUrl: pageFrom('LATTICE_PORTAL_URL'),
    portalTls,
    publicUrl,
    proxies,
    signInsPerMinute: number('LATTICE_SIGN_INS', 10, 1, 1_000_000),
    strangersAnAddress: number('LATTICE_STRANGERS', 256, 1, 1_000_000),
  };
}
