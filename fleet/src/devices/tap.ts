import type { CapturedPacket } from '@iron-lattice/core/line';
import type { World } from '../world/world';
import { arpRequest, icmpEcho, lldp, tcpSegment } from './packets';

const SNAP = 256;
const MOST = 2000;
const LLDP_MS = 1000;
/** Where its line goes, as packets show it; the controller is outside. */
const CONTROLLER = { address: '203.0.113.200', port: 8620 } as const;

/** A capture under way: writes down what passes a port while it lasts. */
export class Tap {
  private readonly packets: CapturedPacket[] = [];
  private readonly timer: NodeJS.Timeout;
  private sequence = 1;

  /** @param port empty for all. */
  constructor(
    private readonly world: World,
    private readonly serial: string,
    private readonly mac: string,
    private readonly port: string,
  ) {
    this.announcements();
    this.timer = setInterval(() => this.announcements(), LLDP_MS);
  }

  /** Ends it. @returns what passed, in order. */
  end(): CapturedPacket[] {
    clearInterval(this.timer);
    return this.packets;
  }

  /** A message on the device's line: it passes the port that leads to the gateway. */
  line(direction: 'in' | 'out', length: number): void {
    const way = this.world.wayOut(this.serial);
    if (!way || !way.address) return;
    const [near, far] = [
      { mac: this.mac, ip: way.address, port: 49_152 },
      { mac: way.nextMac, ip: CONTROLLER.address, port: CONTROLLER.port },
    ];
    const [from, to] = direction === 'out' ? [near, far] : [far, near];
    const ends = { from: from.mac, to: to.mac, fromIp: from.ip, toIp: to.ip };
    this.take(way.port, tcpSegment(ends, { from: from.port, to: to.port }, this.sequence, Math.min(1400, length)));
    this.sequence += length;
  }

  /** The device pings: it asks for the way, then echoes go and, if they do, come back. */
  ping(target: string, answered: boolean): void {
    const way = this.world.wayOut(this.serial);
    if (!way || !way.address) return;
    const ends = { from: this.mac, to: way.nextMac, fromIp: way.address, toIp: target };
    this.take(way.port, arpRequest(this.mac, way.address, way.nextIp));
    this.take(way.port, icmpEcho('request', ends, this.sequence));
    if (answered)
      this.take(
        way.port,
        icmpEcho('reply', { from: ends.to, to: ends.from, fromIp: ends.toIp, toIp: ends.fromIp }, this.sequence),
      );
    this.sequence++;
  }

  private announcements(): void {
    for (const { port, chassis, theirPort } of this.world.neighboursOf(this.serial)) {
      this.take(port, lldp(this.mac, port));
      this.take(port, lldp(chassis, theirPort));
    }
  }

  private take(port: string, frame: Buffer): void {
    if ((this.port !== '' && port !== this.port) || this.packets.length >= MOST) return;
    const at = Math.round((performance.timeOrigin + performance.now()) * 1000);
    this.packets.push({ at, bytes: frame.subarray(0, SNAP).toString('base64'), length: frame.length });
  }
}
