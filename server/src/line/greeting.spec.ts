import { EventEmitter } from 'node:events';
import { generateKeyPairSync, sign, type KeyObject } from 'node:crypto';
import { LINE_VERSION, proofText, type ControllerFrame } from '@iron-lattice/core/line';
import { afterEach, describe, expect, test, vi } from 'vitest';
import type { WebSocket } from 'ws';
import { greet, type Hello } from './greeting';

class Wire extends EventEmitter {
  readonly sent: ControllerFrame[] = [];
  ended = false;
  paused = false;
  readonly send = (text: string): void => void this.sent.push(JSON.parse(text) as ControllerFrame);
  readonly close = (): void => void (this.ended = true);
  readonly terminate = (): void => void (this.ended = true);
  readonly pause = (): void => void (this.paused = true);
  readonly resume = (): void => void (this.paused = false);
}

const nobody = (): void => expect.fail('a stranger of another version was heard');

function helloOf(publicKey: KeyObject): Hello {
  const key = publicKey.export({ type: 'spki', format: 'der' }).toString('base64');
  const [serial, model, mac, firmware] = ['7K4-0163-59', 'AP-2', '02:00:5e:00:00:01', '4.2.1'] as const;
  return { type: 'hello', version: LINE_VERSION, serial, model, mac, firmware, key, runs: null };
}

/** A caller that has said who it is and was asked to prove it. */
async function asked(hello: Hello) {
  const wire = new Wire();
  const proven = vi.fn(async () => {});
  greet(wire as unknown as WebSocket, nobody, proven, (error) => expect.fail(String(error)));
  const say = (frame: object): boolean => wire.emit('message', Buffer.from(JSON.stringify(frame)));
  say(hello);
  await vi.waitFor(() => expect(wire.sent).toEqual([expect.objectContaining({ type: 'challenge' })]));
  return { wire, proven, say, nonce: (wire.sent[0] as { nonce: string }).nonce };
}

describe('a caller', () => {
  afterEach(() => void vi.useRealTimers());
  const { publicKey, privateKey } = generateKeyPairSync('ed25519');
  const hello = helloOf(publicKey);
  const proof = (text: string, key = privateKey) => ({
    type: 'proof',
    signature: sign(null, Buffer.from(text), key).toString('base64'),
  });

  test('that signs what it was asked is taken on, and not read until it is entered', async () => {
    const { wire, proven, say, nonce } = await asked(hello);
    say(proof(proofText(hello.serial, nonce)));
    expect(proven).toHaveBeenCalledExactlyOnceWith(hello);
    expect(wire).toMatchObject({ ended: false, paused: true });
  });

  test('that signs an earlier question, for another serial, or with another key is refused', async () => {
    const other = generateKeyPairSync('ed25519').privateKey;
    const earlier = (await asked(hello)).nonce;
    for (const answer of [
      () => proof(proofText(hello.serial, earlier)),
      (nonce: string) => proof(proofText('7K4-0002-22', nonce)),
      (nonce: string) => proof(proofText(hello.serial, nonce), other),
    ]) {
      const { wire, proven, say, nonce } = await asked(hello);
      say(answer(nonce));
      expect(wire.sent.at(-1)).toMatchObject({ type: 'refusal', code: 'proof' });
      expect(wire.ended).toBe(true);
      expect(proven).not.toHaveBeenCalled();
    }
  });

  test('with a key of another kind is refused, however well it signs', async () => {
    const pair = generateKeyPairSync('ec', { namedCurve: 'P-256' });
    const { wire, proven, say, nonce } = await asked(helloOf(pair.publicKey));
    const signature = sign('sha256', Buffer.from(proofText(hello.serial, nonce)), pair.privateKey).toString('base64');
    say({ type: 'proof', signature });
    expect(wire.sent.at(-1)).toMatchObject({ type: 'refusal', code: 'proof' });
    expect(proven).not.toHaveBeenCalled();
  });

  test('that says twice who it is, is refused', async () => {
    const { wire, proven, say } = await asked(hello);
    say(hello);
    expect(wire.sent.at(-1)).toMatchObject({ type: 'refusal', code: 'frame' });
    expect(proven).not.toHaveBeenCalled();
  });

  test('of another version is told so, and named to whoever lists strangers', () => {
    const wire = new Wire();
    const stranger = vi.fn();
    greet(wire as unknown as WebSocket, stranger, async () => expect.fail(), String);
    const odd = { ...hello, version: 2 };
    wire.emit('message', Buffer.from(JSON.stringify(odd)));
    const reason = 'This controller speaks version 1 of the line, not 2.';
    expect(wire.sent).toEqual([{ type: 'refusal', code: 'version', reason }]);
    expect(stranger).toHaveBeenCalledExactlyOnceWith(odd, reason);
  });

  test('that says more than a first frame holds is refused before it is read', () => {
    const wire = new Wire();
    greet(wire as unknown as WebSocket, nobody, async () => expect.fail(), String);
    wire.emit('message', Buffer.from(JSON.stringify({ ...hello, model: 'x'.repeat(5000) })));
    expect(wire.sent).toEqual([{ type: 'refusal', code: 'frame', reason: 'A first frame has 4096 octets at most.' }]);
    expect(wire.ended).toBe(true);
  });

  test('that does not prove itself in time is let go', () => {
    vi.useFakeTimers();
    const wire = new Wire();
    greet(
      wire as unknown as WebSocket,
      nobody,
      async () => {},
      () => {},
    );
    vi.advanceTimersByTime(9_999);
    expect(wire.ended).toBe(false);
    vi.advanceTimersByTime(1);
    expect(wire.ended).toBe(true);
  });
});
