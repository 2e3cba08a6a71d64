import { chmodSync, closeSync, openSync } from 'node:fs';
import { pino, type Logger } from 'pino';
import type { Config } from './config';

/** The controller's log, as it is configured. */
export function openLog({ logLevel, logFile }: Pick<Config, 'logLevel' | 'logFile'>): Logger {
  const options = { name: 'controller', level: logLevel, serializers: { err: errorForLog } };
  return logFile === null ? pino(options) : pino(options, privateFile(logFile));
}

/** A file that its owner alone reads: what is in a log is nobody else's. */
function privateFile(path: string): ReturnType<typeof pino.destination> {
  closeSync(openSync(path, 'a', 0o600));
  chmodSync(path, 0o600); // one of an earlier version
  return pino.destination(path);
}

/** Of an error what tells it apart; a statement of the database holds people's data, which logs do not. */
function errorForLog(error: unknown): object {
  if (!(error instanceof Error)) return { message: String(error) };
  const { name, message, stack } = error;
  return { name, message, stack };
}
