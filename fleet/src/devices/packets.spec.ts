import { expect, test } from 'vitest';
import { arpRequest, checksum, ethernet, icmpEcho, lldp, tcpSegment } from './packets';

const ENDS = { from: '02:00:00:00:00:01', to: '02:00:00:00:00:02', fromIp: '192.0.2.1', toIp: '192.0.2.2' };

test('the Internet checksum is that of RFC 1071 §3’s example, and of whole headers nothing', () => {
  expect(checksum(Buffer.from('0001f203f4f5f6f7', 'hex'))).toBe(0xffff - 0xddf2);
  const frame = icmpEcho('request', ENDS, 7);
  expect(checksum(frame.subarray(14, 34))).toBe(0); // IPv4 header
  expect(checksum(frame.subarray(34))).toBe(0); // ICMP message
});

test('a tag stands between the addresses and the type', () => {
  const payload = Buffer.from([1]);
  expect(ethernet('ff:ff:ff:ff:ff:ff', ENDS.from, 0x0800, payload, 40).toString('hex')).toBe(
    'ffffffffffff020000000001' + '81000028' + '0800' + '01',
  );
  expect(ethernet(ENDS.to, ENDS.from, 0x0800, payload)).toHaveLength(15);
});

test('an announcement has the four parts that must be there, in their order', () => {
  const frame = lldp('02:00:00:00:00:01', 'lan');
  expect(frame.subarray(0, 6).toString('hex')).toBe('0180c200000e');
  const types: number[] = [];
  for (let at = 14; at < frame.length;) {
    const head = frame.readUInt16BE(at);
    types.push(head >> 9);
    at += 2 + (head & 0x1ff);
  }
  expect(types).toEqual([1, 2, 3, 0]);
});

test('a question for an address is 28 octets long, and names who asks', () => {
  const frame = arpRequest(ENDS.from, ENDS.fromIp, ENDS.toIp);
  expect([frame.length, frame.readUInt16BE(12), frame.readUInt16BE(20)]).toEqual([42, 0x0806, 1]);
  expect(frame.subarray(28, 32).toString('hex')).toBe('c0000201');
});

test('an echo’s reply differs in its type alone, and ends turned round', () => {
  const reply = icmpEcho('reply', { from: ENDS.to, to: ENDS.from, fromIp: ENDS.toIp, toIp: ENDS.fromIp }, 7);
  expect([reply[34], icmpEcho('request', ENDS, 7)[34]]).toEqual([0, 8]);
  expect(reply.subarray(26, 30).toString('hex')).toBe('c0000202');
});

test('a segment says how long it was without its contents', () => {
  const frame = tcpSegment(ENDS, { from: 49_152, to: 8620 }, 1, 100);
  expect(frame.length).toBe(14 + 20 + 20 + 100);
  expect([frame.readUInt16BE(34), frame.readUInt16BE(36)]).toEqual([49_152, 8620]);
  expect(frame.subarray(54).every((octet) => octet === 0)).toBe(true);
});
