import { join } from 'node:path';

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
  /** UDP port at which devices that wait for a controller answer sweeps. */
  readonly sweepPort: number;
  /** Where devices and installers find this controller, when it is not where it listens. */
  readonly publicUrl: string | null;
  /** Sign-in attempts that fail, a minute from one address. */
  readonly signInsPerMinute: number;
  /** Devices that nobody announced which may wait to be claimed, from one address. */
  readonly strangersAnAddress: number;
}

/** Reads the environment. */
export function configFromEnv(env: NodeJS.ProcessEnv, root: string): Config {
  const number = (name: string, otherwise: number): number => {
    const value = Number(env[name] ?? otherwise);
    if (!Number.isFinite(value)) throw new Error(`${name} must be a number, not “${env[name]}”`);
    return value;
  };
  const databaseUrl = env['DATABASE_URL'];
  if (!databaseUrl) throw new Error('DATABASE_URL is not set; npm start sets it');
  return {
    databaseUrl,
    host: env['LATTICE_HOST'] ?? '127.0.0.1',
    port: number('LATTICE_PORT', 8620),
    secretKeyFile: env['LATTICE_SECRET_KEY'] ?? join(root, '.data', 'secret.key'),
    webRoot: join(root, 'web', 'dist', 'web', 'browser'),
    logLevel: env['LATTICE_LOG'] ?? 'warn',
    logFile: env['LATTICE_LOG_FILE'] ?? null,
    keepWithinSeconds: number('LATTICE_KEEP_WITHIN', 10),
    reportSeconds: number('LATTICE_REPORT_SECONDS', 30),
    sweepPort: number('LATTICE_SWEEP_PORT', 8622),
    publicUrl: env['LATTICE_PUBLIC_URL'] ?? null,
    signInsPerMinute: number('LATTICE_SIGN_INS', 10),
    strangersAnAddress: number('LATTICE_STRANGERS', 256),
  };
}
