import { createServer, type IncomingMessage, type RequestListener, type Server, type ServerResponse } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { readTarget } from './request-line';
import { readTls, renew, type TlsFiles } from './tls-files';

/**
 * How long an idle connection is held, in milliseconds: longer than browsers and reverse proxies hold theirs, so that none
 * sends a request on one that ends in that moment.
 */
const IDLE_MS = 75_000;

/** An origin that answers. */
export interface Listening {
  readonly url: string;
  close(): Promise<void>;
}

/**
 * Serves an origin on a port of its own.
 * @param handle answers requests whose target can be read.
 * @param attach is given the server before it listens, for what is no request of HTTP.
 * @param tls where its certificate stands; null: it speaks HTTP, for whoever is in front.
 * @throws Error when the port is taken or may not be used.
 */
export async function listen(
  handle: (request: IncomingMessage, response: ServerResponse) => unknown,
  { host, port, tls = null }: { readonly host: string; readonly port: number; readonly tls?: TlsFiles | null },
  attach?: (server: Server) => Promise<void>,
): Promise<Listening> {
  const answer: RequestListener = (request, response) => {
    if (readTarget(request)) return void handle(request, response);
    response
      .writeHead(400, { 'content-type': 'text/plain', connection: 'close' })
      .end('The request line names no address.');
  };
  const secure = tls ? createSecureServer(readTls(tls), answer) : null;
  const server: Server = secure ?? createServer(answer);
  const settle = secure && tls ? renew(secure, tls) : () => {};
  server.keepAliveTimeout = IDLE_MS;
  await attach?.(server);
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, resolve);
  });
  return {
    url: `${tls ? 'https' : 'http'}://${host}:${(server.address() as AddressInfo).port}`,
    close: () =>
      new Promise((resolve) => {
        settle();
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
