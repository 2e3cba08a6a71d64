import { createSocket, type Socket } from 'node:dgram';

/** Opens a UDP port on loopback. @param port 0, or where it is taken: any. */
export function openUdp(port: number): Promise<Socket> {
  const socket = createSocket('udp4');
  return new Promise((resolve, reject) => {
    socket.once('error', (error: NodeJS.ErrnoException) => {
      socket.close();
      if (error.code !== 'EADDRINUSE' || port === 0) return reject(error);
      openUdp(0).then(resolve, reject);
    });
    socket.bind(port, '127.0.0.1', () => {
      socket.removeAllListeners('error');
      socket.on('error', () => {}); // who asked is gone; the next one is served
      resolve(socket);
    });
  });
}
