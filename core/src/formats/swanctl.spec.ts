import { expect, test } from 'vitest';
import { proposalsOf, swanctlOf, type SwanctlSide } from './swanctl';

const SIDE: SwanctlSide = {
  ...{ name: 'Moor', own: 'bm.example', other: 'moor.example', lasts: { ike: 14_400, esp: 3600 } },
  ike: {
    ciphers: ['aes-gcm-256', 'aes-gcm-128', 'aes-cbc-256', 'chacha20-poly1305'],
    hashes: ['sha2-256'],
    groups: ['31'],
  },
  esp: { ciphers: ['aes-cbc-128'], hashes: ['sha2-512', 'sha2-256'], groups: [] },
  ...{ here: ['10.4.20.0/24'], there: ['10.60.0.0/16', '10.61.0.0/16'] },
};

test('ciphers that need a hash are offered apart from those that do not, and their order stays', () => {
  expect(proposalsOf('ike', SIDE.ike)).toBe(
    'aes256gcm16-aes128gcm16-prfsha256-x25519,aes256-sha256-prfsha256-x25519,chacha20poly1305-prfsha256-x25519',
  );
  expect(proposalsOf('esp', SIDE.esp)).toBe('aes128-sha512-sha256');
});

test('who knows where the other is calls, and who does not waits; the key stands in the file only where it is given', () => {
  const [calls, waits] = [swanctlOf('bm', [{ ...SIDE, at: '203.0.113.60', key: 'kelp' }]), swanctlOf('bm', [SIDE])];
  expect(calls).toContain('remote_addrs = 203.0.113.60');
  expect(calls).toContain('start_action = start');
  expect(calls).toContain('secret = "kelp"');
  expect(waits).toContain('remote_addrs = %any');
  expect(waits).toContain('start_action = none');
  expect(waits).not.toContain('secret = "');
});

test('names become sections of their own, whatever they are made of', () => {
  const text = swanctlOf('bm', [
    { ...SIDE, name: 'Moor } secrets {' },
    { ...SIDE, name: 'moor-secrets' },
    { ...SIDE, name: '«»' },
  ]);
  expect(text).toContain('\n  Moor-secrets {');
  expect(text).toContain('\n  moor-secrets-2 {');
  expect(text).toContain('\n  tunnel {');
  expect(text.match(/\{/g)).toHaveLength(text.match(/\}/g)!.length);
});
