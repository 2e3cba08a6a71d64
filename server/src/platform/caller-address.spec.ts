import { expect, test } from 'vitest';
import { callerOf } from './caller-address';

const from = (remoteAddress: string, forwarded?: string | string[]) => ({
  socket: { remoteAddress },
  headers: forwarded === undefined ? {} : { 'x-forwarded-for': forwarded as string },
});
const PROXIES = ['127.0.0.1', '10.9.0.4'];

test.each([
  ['who calls directly is who the socket shows', from('192.0.2.7'), '192.0.2.7'],
  ['IPv4 in IPv6 is the same address', from('::ffff:192.0.2.7'), '192.0.2.7'],
  ['of a stranger nothing that it says is believed', from('192.0.2.7', '10.9.0.4'), '192.0.2.7'],
  ['a balancer is believed', from('::ffff:10.9.0.4', '192.0.2.7'), '192.0.2.7'],
  ['what stood there before it is anybody’s word', from('10.9.0.4', '203.0.113.1, 192.0.2.7'), '192.0.2.7'],
  ['fields that came apart are one', from('10.9.0.4', ['203.0.113.1', '2001:db8::7']), '2001:db8::7'],
  ['a balancer that says nothing, or no address, is itself', from('127.0.0.1', 'unknown'), '127.0.0.1'],
])('%s', (_name, request, address) => {
  expect(callerOf(request, PROXIES)).toEqual({ address, secure: false });
});

test('whether it came over TLS a balancer of ours says, and nobody else', () => {
  const of = (remoteAddress: string, proto: string) => ({
    socket: { remoteAddress },
    headers: { 'x-forwarded-proto': proto },
  });
  expect(callerOf(of('10.9.0.4', 'https'), PROXIES).secure).toBe(true);
  expect(callerOf(of('10.9.0.4', 'https, http'), PROXIES).secure).toBe(false);
  expect(callerOf(of('192.0.2.7', 'https'), PROXIES).secure).toBe(false);
  expect(callerOf({ socket: { remoteAddress: '192.0.2.7', encrypted: true }, headers: {} }, PROXIES).secure).toBe(true);
});
