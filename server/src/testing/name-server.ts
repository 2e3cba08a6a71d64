import { createSocket, type Socket } from 'node:dgram';
import dns from 'node:dns';

const [HEADER, TYPE_A] = [12, 1];

/** A name server in the hands of a test (RFC 1035 §4): it knows some names and no others. */
export class NameServer {
  private readonly before = dns.getServers();
  private constructor(private readonly socket: Socket) {}

  /** @param names IPv4 addresses by name; from now on it is asked by this process. */
  static async start(names: Readonly<Record<string, readonly string[]>>): Promise<NameServer> {
    const socket = createSocket('udp4');
    socket.on('message', (asked, { port, address }) => {
      const [name, end] = nameOf(asked);
      const known = names[name.toLowerCase()];
      const found = asked.readUInt16BE(end) === TYPE_A ? (known ?? []) : [];
      const head = Buffer.alloc(HEADER);
      asked.copy(head, 0, 0, 2);
      head.writeUInt16BE(known ? 0x8180 : 0x8183, 2); // an answer, or NXDOMAIN
      head.writeUInt16BE(1, 4);
      head.writeUInt16BE(found.length, 6);
      const answers = found.map((text) =>
        // A pointer to the name asked for, type A, class IN, 60 s, four octets.
        Buffer.from([0xc0, HEADER, 0, 1, 0, 1, 0, 0, 0, 60, 0, 4, ...text.split('.').map(Number)]),
      );
      socket.send(Buffer.concat([head, asked.subarray(HEADER, end + 4), ...answers]), port, address);
    });
    await new Promise<void>((resolve) => socket.bind(0, '127.0.0.1', resolve));
    const server = new NameServer(socket);
    dns.setServers([`127.0.0.1:${socket.address().port}`]);
    return server;
  }

  end(): void {
    dns.setServers(this.before);
    this.socket.close();
  }
}

/** The name that is asked for, and where it ends. */
function nameOf(asked: Buffer): [name: string, end: number] {
  const labels: string[] = [];
  let at = HEADER;
  for (let length = asked[at]!; length > 0; length = asked[at]!) {
    labels.push(asked.toString('latin1', at + 1, at + 1 + length));
    at += 1 + length;
  }
  return [labels.join('.'), at + 1];
}
