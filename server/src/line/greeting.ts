import { createPublicKey, randomBytes, verify } from 'node:crypto';
import type { HardwareSheet } from '@iron-lattice/core/hardware';
import { proofText, readDeviceFrame, type ControllerFrame, type DeviceFrame } from '@iron-lattice/core/line';
import type { WebSocket } from 'ws';
import type { CallCheck } from './call-check';

/** A device that does not prove itself by then is let go. */
const PROOF_WITHIN_MS = 10_000;

export type Hello = Extract<DeviceFrame, { type: 'hello' }>;

/**
 * Hears who calls and has it prove that it holds its key, before anything else is heard from it.
 * `proven` is called once, with the socket paused: it resumes it when it listens.
 */
export function greet(
  socket: WebSocket,
  check: CallCheck,
  proven: (hello: Hello, sheet: HardwareSheet | null) => Promise<void>,
  failed: (error: unknown) => void,
): void {
  const nonce = randomBytes(32).toString('base64');
  const timer = setTimeout(() => socket.terminate(), PROOF_WITHIN_MS);
  let hello: Hello | null = null;
  let sheet: HardwareSheet | null = null;
  socket.on('error', () => socket.terminate());
  socket.on('close', () => clearTimeout(timer));
  const hear = (data: Buffer): void => {
    const read = readDeviceFrame(data.toString());
    if (!read.ok) return refuse(socket, 'frame', read.reason);
    const { frame } = read;
    if (frame.type === 'hello' && hello === null) {
      hello = frame;
      socket.pause();
      void check
        .hello(frame)
        .then((checked) => {
          socket.resume();
          if ('code' in checked) return refuse(socket, checked.code, checked.reason);
          sheet = checked.sheet;
          socket.send(JSON.stringify({ type: 'challenge', nonce } satisfies ControllerFrame));
        })
        .catch((error: unknown) => {
          failed(error);
          socket.terminate();
        });
    } else if (frame.type === 'proof' && hello !== null) {
      if (!isProof(hello, nonce, frame.signature))
        return refuse(socket, 'proof', 'The signature does not fit the key.');
      clearTimeout(timer);
      socket.off('message', hear);
      socket.pause(); // nothing it says is read before its line is entered
      void proven(hello, sheet).catch((error: unknown) => {
        failed(error);
        socket.terminate();
      });
    } else refuse(socket, 'frame', `${frame.type} was not expected here.`);
  };
  socket.on('message', hear);
}

function isProof(hello: Hello, nonce: string, signature: string): boolean {
  try {
    const key = createPublicKey({ key: Buffer.from(hello.key, 'base64'), format: 'der', type: 'spki' });
    if (key.asymmetricKeyType !== 'ed25519') return false;
    return verify(null, Buffer.from(proofText(hello.serial, nonce)), key, Buffer.from(signature, 'base64'));
  } catch {
    return false; // bytes that are no key prove nothing
  }
}

/** Says why a line is ended, and ends it. */
export function refuse(socket: WebSocket, code: string, reason: string): void {
  socket.send(JSON.stringify({ type: 'refusal', code, reason: reason.slice(0, 400) } satisfies ControllerFrame));
  socket.close(1008, code);
}
