import { createSocket, type Socket } from 'node:dgram';
import { setTimeout } from 'node:timers/promises';
import { formatIp, sizeOf, type Prefix } from '@iron-lattice/core/address';
import type { SweepFind } from '@iron-lattice/core/line';

/** Datagrams a burst, and how long until the next: some 8,000 addresses a second. */
const BURST = { size: 64, ms: 8 } as const;
/** How long answers are waited for after the last question. */
const LINGER_MS = 500;
const TELL_MS = 200;
const INVITED_MS = 2000;
const QUESTION = Buffer.from(JSON.stringify({ lattice: 'who', version: 1 }));

/**
 * Asks every address of a prefix by UDP who it is (docs/device-line.md, “Sweeps”).
 * @param tell is called now and then with how many were asked and what answered since.
 */
export async function sweepFromHere(
  prefix: Prefix,
  port: number,
  signal: AbortSignal,
  tell: (done: number, found: readonly SweepFind[]) => Promise<void>,
): Promise<void> {
  const total = Number(sizeOf(4, prefix.length));
  const socket = await opened();
  let fresh: SweepFind[] = [];
  socket.on('message', (data, from) => {
    const find = readAnswer(data, from.address);
    if (find) fresh.push(find);
  });
  let toldAt = Date.now();
  const say = async (done: number): Promise<void> => {
    const found = fresh;
    fresh = [];
    toldAt = Date.now();
    await tell(done, found);
  };
  try {
    for (let at = 0; at < total && !signal.aborted; at += BURST.size) {
      for (let i = at; i < Math.min(total, at + BURST.size); i++) {
        const address = formatIp({ version: 4, value: prefix.network + BigInt(i) });
        socket.send(QUESTION, port, address, () => undefined); // an address that cannot be reached is one without a device
      }
      if (Date.now() - toldAt > TELL_MS) await say(Math.min(total, at + BURST.size));
      await pause(BURST.ms, signal);
    }
    await pause(LINGER_MS, signal);
    await say(signal.aborted ? 0 : total);
  } finally {
    socket.close();
  }
}

/** Has a device call a controller. @returns whether it took the invitation. */
export async function invite(address: string, port: number, url: string): Promise<boolean> {
  const socket = await opened();
  try {
    return await new Promise((resolve) => {
      void setTimeout(INVITED_MS).then(() => resolve(false));
      socket.on('message', (data) => {
        resolve((read(data) as { lattice?: unknown } | null)?.lattice === 'calling');
      });
      socket.send(JSON.stringify({ lattice: 'call', url }), port, address, (error) => error && resolve(false));
    });
  } finally {
    socket.close();
  }
}

function opened(): Promise<Socket> {
  const socket = createSocket('udp4');
  socket.on('error', () => undefined); // ICMP errors of single addresses
  return new Promise((resolve) => socket.bind(0, () => resolve(socket)));
}

function readAnswer(data: Buffer, address: string): SweepFind | null {
  const answer = read(data) as Record<string, unknown> | null;
  if (answer?.['lattice'] !== 'here') return null;
  const field = (name: string): string | null => {
    const value = answer[name];
    return typeof value === 'string' && value.length > 0 && value.length <= 64 ? value : null;
  };
  const [serial, model, mac, firmware] = [field('serial'), field('model'), field('mac'), field('firmware')];
  if (!serial || !model || !mac || !firmware || !/^[0-9A-Z-]{4,32}$/.test(serial)) return null;
  return { address, serial, model, mac, firmware };
}

function read(data: Buffer): unknown {
  try {
    return JSON.parse(data.toString());
  } catch {
    return null;
  }
}

/** Waits, or goes on at once when it is stopped. */
const pause = (ms: number, signal: AbortSignal): Promise<void> =>
  setTimeout(ms, undefined, { signal }).catch(() => undefined);
