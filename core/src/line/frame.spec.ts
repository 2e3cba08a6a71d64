import { expect, test } from 'vitest';
import { readControllerFrame, readDeviceFrame, type DeviceFrame } from '.';

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
