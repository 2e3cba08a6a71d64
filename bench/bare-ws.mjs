// The baseline for memory: a WebSocket server that does nothing. Tells its parent where it listens.
import { createServer } from 'node:http';
import { WebSocketServer } from 'ws';

const server = createServer();
const sockets = new WebSocketServer({ server, perMessageDeflate: false });
sockets.on('connection', (socket) => socket.on('message', () => {}));
server.listen(0, '127.0.0.1', () => process.send({ port: server.address().port }));
process.on('disconnect', () => process.exit(0));
