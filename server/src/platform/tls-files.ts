import { readFileSync, statSync } from 'node:fs';
import { createSecureContext } from 'node:tls';
import type { Server } from 'node:https';
import { StartRefusal } from './start-refusal';

/** Where a certificate with its chain, and its key, stand as PEM (RFC 7468). */
export interface TlsFiles {
  readonly cert: string;
  readonly key: string;
}

/** How often it is looked whether they are others, in milliseconds: certificates are renewed while it runs. */
const LOOK_MS = 60_000;

/** What they hold. @throws StartRefusal when they cannot be read, or do not belong to each other. */
export function readTls({ cert, key }: TlsFiles): { readonly cert: Buffer; readonly key: Buffer } {
  try {
    const read = { cert: readFileSync(cert), key: readFileSync(key) };
    createSecureContext(read);
    return read;
  } catch (error) {
    const why = (error as Error).message;
    throw new StartRefusal(`${cert} and ${key} are no certificate and its key, as PEM: ${why}.`);
  }
}

/** Takes renewed files without an interruption; what is no pair is left until it is. @returns stops looking. */
export function renew(server: Server, files: TlsFiles): () => void {
  const stamp = (): string =>
    [files.cert, files.key].map((file) => statSync(file, { throwIfNoEntry: false })?.mtimeMs).join();
  let before = stamp();
  const timer = setInterval(() => {
    const now = stamp();
    if (now === before) return;
    try {
      server.setSecureContext(readTls(files));
      before = now;
    } catch {
      // The one is written and the other not yet.
    }
  }, LOOK_MS);
  timer.unref();
  return () => clearInterval(timer);
}
