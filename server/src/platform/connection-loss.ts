import { BaseError, ConnectionError, ConnectionAcquireTimeoutError } from 'sequelize';

/** PostgreSQL's codes of being stopped, starting, lost, or full (appendix A, classes 08, 53 and 57). */
const AWAY = /^(08...|57P0[1-5]|53300|25P03)$/;
/** Node's codes of a socket that leads nowhere. */
const SOCKET = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EHOSTUNREACH']);
/** The driver gives these two no code. */
const DRIVER = /^Connection terminated|^Client has encountered a connection error|^Client was closed/;

/** Whether an error says that the database cannot be reached for now: what was asked may be asked again. */
export function isConnectionLost(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  if (error instanceof ConnectionAcquireTimeoutError) return false;
  if (error instanceof ConnectionError) return true;
  const { code } = error as NodeJS.ErrnoException;
  if (code !== undefined && (AWAY.test(code) || SOCKET.has(code))) return true;
  if (DRIVER.test(error.message)) return true;
  const inner = error instanceof BaseError ? (error as BaseError & { original?: unknown }).original : error.cause;
  return inner !== undefined && inner !== error && isConnectionLost(inner);
}

/** Whether all connections were in use for too long. */
export const isPoolBusy = (error: unknown): boolean =>
  error instanceof ConnectionAcquireTimeoutError ||
  (error instanceof Error && error.message === 'timeout exceeded when trying to connect');

/** Whether the disk that the database writes to is full (class 53, `disk_full`). */
export function isDiskFull(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const { code } = error as NodeJS.ErrnoException;
  if (code === '53100' || code === 'ENOSPC') return true;
  const inner = (error as { original?: unknown }).original ?? error.cause;
  return inner !== undefined && inner !== error && isDiskFull(inner);
}
