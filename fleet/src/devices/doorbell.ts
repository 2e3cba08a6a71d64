import { createSocket, type Socket } from 'node:dgram';
import type { WorldDevice } from '../world/world-file';

/**
 * Answers sweeps at a box's own address: says who it is, and takes an invitation to call a controller. Only boxes
 * that wait for one have it.
 */
export class Doorbell {
  private socket: Socket | null = null;

  constructor(
    private readonly identity: WorldDevice,
    private readonly at: string,
    private readonly port: number,
    /** Whether it has a document: then it knows whom it belongs to, and answers nobody. */
    private readonly taken: () => boolean,
    private readonly invited: (url: string) => void,
  ) {}

  open(): void {
    if (this.socket) return;
    const socket = createSocket('udp4');
    this.socket = socket;
    socket.on('error', () => this.close()); // an address this machine does not have
    socket.on('message', (data, from) => {
      const answer = this.answerTo(data.toString());
      if (answer) socket.send(JSON.stringify(answer), from.port, from.address);
    });
    socket.bind(this.port, this.at);
  }

  close(): void {
    this.socket?.close();
    this.socket = null;
  }

  private answerTo(text: string): object | null {
    if (this.taken()) return null;
    let question: { lattice?: unknown; url?: unknown };
    try {
      question = JSON.parse(text) as typeof question;
    } catch {
      return null;
    }
    const { serial, model, mac, firmware } = this.identity;
    if (question.lattice === 'who') return { lattice: 'here', serial, model, mac, firmware };
    if (question.lattice !== 'call' || typeof question.url !== 'string') return null;
    this.invited(question.url);
    return { lattice: 'calling' };
  }
}
