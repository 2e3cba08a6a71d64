import { createPublicKey, verify } from 'node:crypto';
import { createSocket } from 'node:dgram';
import { once } from 'node:events';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hashOf, type DeviceDocument } from '@iron-lattice/core/document';
import { proofText, readDeviceFrame, type ControllerFrame, type DeviceFrame } from '@iron-lattice/core/line';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { WebSocketServer, type WebSocket } from 'ws';
import { Fleet } from '../fleet';
import type { WorldFile } from '../world/world-file';
import { factoryDocument } from '../world/factory-document';

const WORLD: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [
    { serial: 'GW-1', model: 'GW-4', mac: '02:00:00:00:00:01', firmware: '1' },
    { serial: 'SW-1', model: 'SW-8P', mac: '02:00:00:00:00:02', firmware: '1' },
    { serial: 'AP-1', model: 'AP-6', mac: '02:00:00:00:00:03', firmware: '1' },
  ],
  cables: [
    ['GW-1:1', 'SW-1:9'],
    ['SW-1:1', 'AP-1:lan'],
  ],
  providers: [{ name: 'Tidewire', gives: { 'GW-1:wan1': '203.0.113.9' } }],
  clients: [],
};

/** The controller's end, in the hands of a test: one line, welcomed as claimed. */
class Controller {
  readonly server = new WebSocketServer({ port: 0, host: '127.0.0.1', path: '/line' });
  private readonly heard: DeviceFrame[] = [];
  private line: WebSocket | null = null;
  private wake = (): void => {};

  constructor() {
    this.server.on('connection', (line) => {
      this.line = line;
      line.on('message', (data: Buffer) => {
        const read = readDeviceFrame(data.toString());
        if (!read.ok) throw new Error(read.reason);
        this.heard.push(read.frame);
        this.wake();
      });
    });
  }

  get url(): string {
    return `ws://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }
  say(frame: ControllerFrame): void {
    this.line!.send(JSON.stringify(frame));
  }
  async hear<T extends DeviceFrame['type']>(type: T): Promise<Extract<DeviceFrame, { type: T }>> {
    for (;;) {
      const frame = this.heard.shift();
      if (frame?.type === type) return frame as Extract<DeviceFrame, { type: T }>;
      if (!frame) await new Promise<void>((resolve) => (this.wake = resolve));
    }
  }
  /** Takes a call up to the welcome. @returns what the device said of itself. */
  async greet(): Promise<Extract<DeviceFrame, { type: 'hello' }>> {
    const hello = await this.hear('hello');
    this.say({ type: 'challenge', nonce: 'A'.repeat(43) + '=' });
    const { signature } = await this.hear('proof');
    const key = createPublicKey({ key: Buffer.from(hello.key, 'base64'), format: 'der', type: 'spki' });
    const text = Buffer.from(proofText(hello.serial, 'A'.repeat(43) + '='));
    expect(verify(null, text, key, Buffer.from(signature, 'base64'))).toBe(true);
    this.say({ type: 'welcome', claimed: true, reportSeconds: 60 });
    return hello;
  }
  tell(document: DeviceDocument, keepWithinSeconds = 5, hash = hashOf(document)): string {
    this.say({ type: 'document', hash, document, secrets: {}, keepWithinSeconds });
    return hash;
  }
}

let controller: Controller;
let folder: string;
let fleet: Fleet;
beforeEach(async () => {
  controller = new Controller();
  await once(controller.server, 'listening');
  folder = mkdtempSync(join(tmpdir(), 'lattice-fleet-'));
  fleet = new Fleet(WORLD, controller.url, folder);
});
afterEach(() => {
  fleet.stop();
  for (const client of controller.server.clients) client.terminate();
  controller.server.close();
  rmSync(folder, { recursive: true });
});

/** The switch's factory document with another name, and ports changed. */
function documentFor(name: string, change: Record<string, object> = {}): DeviceDocument {
  const plain = factoryDocument(WORLD.devices[1]!);
  const ports = plain.ports.map((port) => ({ ...port, ...change[port.name] }));
  return { ...plain, device: { ...plain.device, name }, ports };
}

test('a document is kept only when the controller says so, and then survives the process', async () => {
  fleet.start(['SW-1']);
  expect(await controller.greet()).toMatchObject({ serial: 'SW-1', runs: null });
  const hash = controller.tell(documentFor('sw-01'));
  expect((await controller.hear('applied')).hash).toBe(hash);
  expect(fleet.device('SW-1').runs).toBeNull();
  controller.say({ type: 'keep', hash });
  expect((await controller.hear('kept')).hash).toBe(hash);
  const key = fleet.device('SW-1').publicKey;
  fleet.stop();
  fleet = new Fleet(WORLD, controller.url, folder);
  fleet.start(['SW-1']);
  expect(await controller.greet()).toMatchObject({ runs: hash, key });
  expect(readdirSync(folder).filter((name) => name.endsWith('.new'))).toEqual([]);
});

test('without that word it goes back by itself and says so', async () => {
  fleet.start(['SW-1']);
  await controller.greet();
  const hash = controller.tell(documentFor('sw-01'), 0.2);
  await controller.hear('applied');
  expect(await controller.hear('went-back')).toEqual({
    type: 'went-back',
    hash,
    runs: null,
    unanswered: true,
    reason: 'the controller did not answer within 0.2 s of applying the document',
  });
});

test('a document that cuts it off makes it mute, until it went back', async () => {
  fleet.start(['SW-1']);
  await controller.greet();
  controller.tell(documentFor('sw-01', { '9': { untagged: null } }), 0.4);
  await expect.poll(() => fleet.world.reachesController('SW-1')).toBe(false);
  const back = await controller.hear('went-back'); // “applied” never got out
  expect(back.runs).toBeNull();
  expect(fleet.world.reachesController('SW-1')).toBe(true);
});

test('what it takes is whole and meant for it, else it is refused untouched', async () => {
  fleet.start(['SW-1']);
  await controller.greet();
  controller.tell(documentFor('sw-01'), 5, 'a'.repeat(64));
  expect((await controller.hear('refused')).reason).toBe('the document does not match its hash');
  const other = { ...documentFor('x'), device: { name: 'x', serial: 'GW-1', model: 'SW-8P' } } as DeviceDocument;
  controller.tell(other);
  expect((await controller.hear('refused')).reason).toBe('the document is for GW-1');
  fleet.device('SW-1').mischief.refuse = 'flash is full';
  controller.tell(documentFor('sw-01'));
  expect(await controller.hear('refused')).toMatchObject({ reason: 'flash is full', runs: null });
});

test('told the same again while it is on trial it says so again, and does not go back', async () => {
  fleet.start(['SW-1']);
  await controller.greet();
  const hash = controller.tell(documentFor('sw-01'));
  await controller.hear('applied');
  controller.tell(documentFor('sw-01'));
  expect((await controller.hear('applied')).hash).toBe(hash);
  controller.say({ type: 'keep', hash });
  await controller.hear('kept');
  controller.tell(documentFor('sw-01'));
  expect((await controller.hear('kept')).hash).toBe(hash);
});

test('it reports what is around it, and answers when asked', async () => {
  fleet.start(['SW-1']);
  await controller.greet();
  const { report } = await controller.hear('report');
  expect(report.address).toBe('192.168.1.2');
  expect(report.neighbours).toEqual([
    { port: '9', chassis: '02:00:00:00:00:01', theirPort: '1' },
    { port: '1', chassis: '02:00:00:00:00:03', theirPort: 'lan' },
  ]);
  expect(report.counters[0]!.outOctets).toBeGreaterThan(100);
  controller.say({ type: 'command', id: '1', name: 'ping', target: '192.168.1.1' });
  expect(await controller.hear('answer')).toMatchObject({ id: '1', ok: true, text: '192.168.1.1 answers.' });
  fleet.power('AP-1', false);
  expect((await controller.hear('report')).report.neighbours).toHaveLength(1);
});

test('it calls again after the line was lost', async () => {
  fleet.start(['SW-1']);
  await controller.greet();
  for (const client of controller.server.clients) client.terminate();
  expect(await controller.greet()).toMatchObject({ serial: 'SW-1' });
});

test('told to forget it is as from the factory, with its key; restarted it runs what it kept', async () => {
  fleet.start(['SW-1']);
  const { key } = await controller.greet();
  const hash = controller.tell(documentFor('sw-01'));
  await controller.hear('applied');
  controller.say({ type: 'keep', hash });
  await controller.hear('kept');
  controller.say({ type: 'command', id: 'r', name: 'restart', target: '' });
  await controller.hear('answer');
  expect(await controller.greet()).toMatchObject({ runs: hash, key });
  controller.say({ type: 'command', id: 'f', name: 'forget', target: '' });
  await controller.hear('answer');
  expect(await controller.greet()).toMatchObject({ runs: null, key });
});

test('a clock that is off shows in what it says, and an image that cannot be fetched is refused with the reason', async () => {
  fleet.device('SW-1').mischief.clockOff = -3_600_000;
  fleet.start(['SW-1']);
  const { clock } = await controller.greet();
  expect(Math.abs(clock! + 3_600_000 - Date.now())).toBeLessThan(5000);
  const order = {
    type: 'firmware',
    id: 'u',
    release: '2',
    size: 3,
    sha256: 'a'.repeat(64),
    path: '/line/firmware/x/2',
  } as const;
  controller.say(order);
  expect((await controller.hear('firmware-failed')).reason).toMatch(/^The image could not be fetched/);
  expect(fleet.device('SW-1').firmware).toBe('1');
});

test('a gateway’s sweep says how far it is, finds who is there, and ends when it is called off', async () => {
  fleet.start(['GW-1']);
  await controller.greet();
  controller.say({ type: 'command', id: 's', name: 'sweep', target: '192.168.0.0/20' });
  expect(await controller.hear('progress')).toMatchObject({ id: 's', done: 512, of: 4096 });
  const { ok, found } = await controller.hear('answer');
  expect([ok, found!.map((each) => each.serial)]).toEqual([true, ['SW-1', 'AP-1']]);
  controller.say({ type: 'command', id: 't', name: 'sweep', target: '192.168.0.0/18' });
  await controller.hear('progress');
  controller.say({ type: 'cancel', id: 't' });
  expect(await controller.hear('answer')).toMatchObject({ id: 't', ok: false });
});

test('a box that waits answers a sweep, calls whom it is told to, and answers nobody once it has a document', async () => {
  fleet.stop();
  const file: WorldFile = {
    ...WORLD,
    devices: WORLD.devices.map((device) =>
      device.serial === 'AP-1' ? { ...device, waits: true, at: '127.77.40.1' } : device,
    ),
  };
  const socket = createSocket('udp4').bind(0, '127.0.0.1');
  await once(socket, 'listening');
  const port = socket.address().port; // free at another address too
  fleet = new Fleet(file, 'ws://127.0.0.1:9', null, port);
  fleet.start(['AP-1']);
  const ask = async (question: object): Promise<unknown> => {
    socket.send(JSON.stringify(question), port, '127.77.40.1');
    const [data] = (await once(socket, 'message', { signal: AbortSignal.timeout(1500) })) as [Buffer];
    return JSON.parse(data.toString());
  };
  expect(await ask({ lattice: 'who', version: 1 })).toEqual({
    lattice: 'here',
    serial: 'AP-1',
    model: 'AP-6',
    mac: '02:00:00:00:00:03',
    firmware: '1',
  });
  expect(await ask({ lattice: 'call', url: controller.url })).toEqual({ lattice: 'calling' });
  expect(await controller.greet()).toMatchObject({ serial: 'AP-1' });
  const document = factoryDocument(file.devices[2]!);
  const hash = controller.tell(document);
  await controller.hear('applied');
  controller.say({ type: 'keep', hash });
  await controller.hear('kept');
  await expect(ask({ lattice: 'who', version: 1 })).rejects.toThrow();
  socket.close();
});
