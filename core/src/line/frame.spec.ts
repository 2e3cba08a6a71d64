import { describe, expect, test } from 'vitest';
import type { ObjectSchema } from '../schema';
import { readControllerFrame, readDeviceFrame, type ControllerFrame, type DeviceFrame } from '.';
import { CONTROLLER_SCHEMAS, DEVICE_SCHEMAS } from './frame';

const hello: DeviceFrame = {
  type: 'hello',
  version: 1,
  serial: '7K4-0001-11',
  model: 'AP-6E',
  mac: '02:00:00:00:00:01',
  firmware: '4.3.0',
  key: 'QUJD',
  runs: null,
};

test('a frame survives being sent', () => {
  expect(readDeviceFrame(JSON.stringify(hello))).toEqual({ ok: true, frame: hello });
  expect(readControllerFrame(JSON.stringify({ type: 'keep', hash: 'a'.repeat(64) }))).toMatchObject({ ok: true });
});

test.each([
  ['no JSON', '{', 'not JSON'],
  ['a bare value', '7', 'unknown frame type undefined'],
  ['null', 'null', 'unknown frame type undefined'],
  ['an unknown type', '{"type":"toString"}', 'unknown frame type toString'],
  ['a frame of the other end', '{"type":"keep","hash":""}', 'unknown frame type keep'],
  ['an unknown field', JSON.stringify({ ...hello, extra: 1 }), '"extra" is not allowed'],
  ['a missing field', JSON.stringify({ ...hello, mac: undefined }), '"mac" is required'],
  [
    'a serial that is markup',
    JSON.stringify({ ...hello, serial: '<b>' }),
    '"serial" with value "<b>" fails to match the required pattern: /^[0-9A-Z-]{4,32}$/',
  ],
])('%s is refused with its reason', (_name, text, reason) => {
  expect(readDeviceFrame(text)).toEqual({ ok: false, reason });
});

const hash = 'a'.repeat(64);
const mac = '02:00:00:00:00:01';
const find = { address: '10.1.1.9', serial: '7K4-0001-11', model: 'AP-6E', mac, firmware: '4.3.0' };
/** One of each, with all that it may hold. */
const FROM_DEVICE: { readonly [T in DeviceFrame['type']]: Extract<DeviceFrame, { type: T }> } = {
  hello: { ...hello, clock: 1, failed: { release: '5.0.0', reason: 'No boot.' } },
  proof: { type: 'proof', signature: 'QUJD' },
  applied: { type: 'applied', hash },
  kept: { type: 'kept', hash },
  'went-back': { type: 'went-back', hash, runs: null, reason: 'No answer.', unanswered: true },
  refused: { type: 'refused', hash, runs: hash, reason: 'No such port.' },
  changed: { type: 'changed', hash },
  'told-back': { type: 'told-back', hash, document: { format: 'iron-lattice.document/1', kind: 'switch' } as never },
  report: {
    type: 'report',
    report: {
      address: '10.1.1.2',
      uptime: 9,
      neighbours: [{ port: '1', chassis: 'GW', theirPort: '2' }],
      uplinks: [{ port: 'wan1', up: true, address: null }],
      clients: [{ mac, ssid: 'Crew', vlan: 10, address: null, address6: 'fd00::1', since: 1, name: 'till' }],
      leases: [{ vlan: 10, mac, address: '10.1.10.9', since: 1, name: 'till' }],
      wired: [{ mac, port: '1', vlan: 10, address6: 'fd00::1', since: 1 }],
      ports: [{ port: '1', up: true, speed: 1000, watts: 4.5 }],
      counters: [{ port: '1', inOctets: 1, outOctets: 2 }],
      hits: [{ rule: 'r', packets: 1 }],
      notes: [{ at: '2026-03-01T08:00:00Z', rule: 'r', packet: '10.1.1.1 to 10.1.1.2', passed: false }],
      clock: 1,
    },
  },
  answer: {
    type: 'answer',
    id: 'c',
    ok: true,
    text: 'one\ntwo',
    packets: [{ at: 1, bytes: 'QUJD', length: 64 }],
    found: [find],
    stoppedBy: 'Crew keeps out',
  },
  progress: { type: 'progress', id: 'c', done: 1, of: 2, found: [find] },
  'firmware-progress': { type: 'firmware-progress', id: 'u', percent: 50, restarting: false },
  'firmware-failed': { type: 'firmware-failed', id: 'u', reason: 'No room.' },
  'ring-at': { type: 'ring-at', ssid: 's', at: 3 },
  'guests-ask': { type: 'guests-ask', portal: 'p', macs: [mac] },
  'guests-told': { type: 'guests-told', portal: 'p', macs: [mac] },
};
const document = { format: 'iron-lattice.document/1', kind: 'switch' } as never;
const FROM_CONTROLLER: { readonly [T in ControllerFrame['type']]: Extract<ControllerFrame, { type: T }> } = {
  challenge: { type: 'challenge', nonce: 'QUJD'.repeat(8) },
  welcome: { type: 'welcome', claimed: true, reportSeconds: 30, now: 1, portal: 'https://guests.example:8624' },
  refusal: { type: 'refusal', code: 'key', reason: 'Another key.' },
  document: { type: 'document', hash, document, secrets: { s: 'gull-on-the-mast' }, keepWithinSeconds: 30 },
  keep: { type: 'keep', hash },
  'tell-back': { type: 'tell-back', hash },
  ring: {
    type: 'ring',
    ssid: 's',
    after: 0,
    at: 3,
    keys: [
      {
        ...{ id: 'k', key: 'gull-on-the-mast', segment: 'Berth 7', macs: [mac], full: true, most: 1 },
        ...{ from: '2026-12-01', until: '2026-12-31 11:00' },
      },
    ],
    gone: ['j'],
  },
  guests: { type: 'guests', portal: 'p', guests: [{ mac, in: true, until: 5, left: 7, again: 9 }] },
  command: {
    type: 'command',
    id: 'c',
    name: 'probe',
    target: '10.1.1.1',
    seconds: 3,
    probe: { ssid: 'Crew', port: '1', mac, does: 'connect', protocol: 'tcp', number: 443 },
  },
  cancel: { type: 'cancel', id: 'c' },
  firmware: { type: 'firmware', id: 'u', release: '5.0.0', size: 9, sha256: hash, path: '/line/firmware/AP-6E/5.0.0' },
};

/** Every object inside a value, with how to put another one in its place. */
function* objectsIn(value: unknown, put: (next: unknown) => unknown): Generator<[Record<string, unknown>, typeof put]> {
  if (Array.isArray(value)) yield* objectsIn(value[0], (next) => put([next]));
  else if (typeof value === 'object' && value !== null) {
    yield [value as Record<string, unknown>, put];
    for (const [key, inner] of Object.entries(value)) yield* objectsIn(inner, (next) => put({ ...value, [key]: next }));
  }
}
/** Objects that hold what they like: secrets by their ids, and a document, which is judged by itself. */
const isOpen = (object: object): boolean => 's' in object || 'format' in object;

describe.each([
  ['device', FROM_DEVICE, DEVICE_SCHEMAS, readDeviceFrame],
  ['controller', FROM_CONTROLLER, CONTROLLER_SCHEMAS, readControllerFrame],
] as const)('frames of the %s', (_end, samples, schemas, read) => {
  test('each type has one, and each is of one end alone', () => {
    expect(Object.keys(schemas).sort()).toEqual(Object.keys(samples).sort());
  });

  test.each(Object.entries(samples))(
    '%s is taken whole, and not with a field less, a field more, or rubbish',
    (type, frame) => {
      const ok = (value: unknown): boolean => read(JSON.stringify(value)).ok;
      expect(ok(frame)).toBe(true);
      const schema: ObjectSchema = schemas[type]!;
      const fields = Object.entries(schema.describe().keys as Record<string, { flags?: { presence?: string } }>);
      for (const [field, { flags }] of fields) {
        const { [field]: _left, ...rest } = frame as unknown as Record<string, unknown>;
        expect([field, ok(rest)]).toEqual([field, flags?.presence !== 'required']);
      }
      for (const [object, put] of objectsIn(frame, (next) => next)) {
        if (isOpen(object)) continue;
        expect(ok(put({ ...object, extra: 1 }))).toBe(false);
        for (const [field, value] of Object.entries(object)) {
          // Nothing is taken for what it is not: neither text for numbers, nor what cannot be shown or kept.
          const isText = typeof value === 'string';
          const rubbish = isText
            ? [7, `${value}\u0000`, 'x'.repeat(5000)]
            : [Number.MAX_VALUE, ...(value === null ? [] : ['7'])];
          for (const other of [...rubbish, [], { a: 1 }])
            if (JSON.stringify(other) !== JSON.stringify(value) && !(Array.isArray(value) && Array.isArray(other)))
              expect([field, other, ok(put({ ...object, [field]: other }))]).toEqual([field, other, false]);
        }
      }
    },
  );
});
