import { createSocket, type Socket } from 'node:dgram';
import { isIPv6 } from 'node:net';
import type { MessagePort } from 'node:worker_threads';
import { Answerer } from './answerer';
import type { AnsweringStart, FromThread, ToThread } from './answering.contract';

/** Datagrams that are being answered; more are left unheard, and come again. */
const MOST_AT_ONCE = 2000;
/** Octets that wait to be read: a burst of thousands is heard. */
const BUFFER = 4_000_000;

/** No tasks: it is a thread of its own. */
export const tasks = {};

/** The thread that answers who somebody is (RFC 2865), and hears what sessions come to (RFC 2866), at two UDP ports beside each other. */
export function run(port: MessagePort, { host, port: first }: AnsweringStart): void {
  const say = (message: FromThread): void => port.postMessage(message);
  const answerer = new Answerer(say);
  const sockets: Socket[] = [];
  let busy = 0;

  const open = (at: number): Promise<number> =>
    new Promise((resolve, reject) => {
      const socket = createSocket({ type: isIPv6(host) ? 'udp6' : 'udp4' });
      socket.once('error', reject);
      socket.bind(at, host, () => {
        socket.off('error', reject);
        socket.on('error', () => {}); // who asked is gone; the next one is served
        try {
          socket.setRecvBufferSize(BUFFER);
        } catch {
          // as large as the machine lets it be
        }
        socket.on('message', (bytes, { address, port: from }) => {
          if (busy >= MOST_AT_ONCE) return;
          busy++;
          answerer
            .answer(new Uint8Array(bytes), { address, port: from })
            .then((handled) => {
              if (handled?.bytes && sockets.includes(socket)) socket.send(handled.bytes, from, address);
            })
            .catch(() => {}) // one that cannot be judged is left unanswered, as the standard has it
            .finally(() => busy--);
        });
        sockets.push(socket);
        resolve(socket.address().port);
      });
    });

  const end = (): void => {
    for (const socket of sockets.splice(0)) socket.close();
    port.close();
  };
  port.on('message', (message: ToThread) => (message.type === 'end' ? end() : answerer.hear(message)));
  (async () => {
    const answers = await open(first);
    await open(first === 0 ? 0 : first + 1);
    say({ type: 'open', port: answers });
  })().catch((error: NodeJS.ErrnoException) => {
    const why =
      error.code === 'EADDRINUSE'
        ? `UDP port ${first} or ${first + 1} is taken on this machine`
        : error.code === 'EACCES'
          ? `UDP port ${first} may not be used by this user`
          : error.message;
    for (const socket of sockets.splice(0)) socket.close();
    say({ type: 'shut', why });
  });
}
