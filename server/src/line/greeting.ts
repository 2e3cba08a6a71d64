import { createPublicKey, randomBytes, verify } from 'node:crypto';
import {
  LINE_VERSION,
  proofText,
  readDeviceFrame,
  type ControllerFrame,
  type DeviceFrame,
} from '@iron-lattice/core/line';
import type { WebSocket } from 'ws';

/** A device that does not prove itself by then is let go. */
const PROOF_WITHIN_MS = 10_000;
/** Octets of a frame from somebody who has not proved anything yet; the longest of ours has some 700. */
const MOST_UNPROVEN = 4096;

export type Hello = Extract<DeviceFrame, { type: 'hello' }>;
/** Who called and proved it, with what it said once nobody else could have. */
export type Proven = Hello & Pick<Extract<DeviceFrame, { type: 'proof' }>, 'first'>;

/**
 * Hears who calls and has it prove that it holds its key, before anything else is heard from it, written down or looked up.
 * `proven` is called once, with the socket paused: it resumes it when it listens.
 * @param stranger is called when a device speaks another version, and so cannot prove itself to us.
 */
export function greet(
  socket: WebSocket,
  stranger: (hello: Hello, reason: string) => void,
  proven: (hello: Proven) => Promise<void>,
  failed: (error: unknown) => void,
): void {
  const nonce = randomBytes(32).toString('base64');
  const timer = setTimeout(() => socket.terminate(), PROOF_WITHIN_MS);
  let hello: Hello | null = null;
  socket.on('error', () => socket.terminate());
  socket.on('close', () => clearTimeout(timer));
  const hear = (data: Buffer): void => {
    if (data.length > MOST_UNPROVEN)
      return refuse(socket, 'frame', `A first frame has ${MOST_UNPROVEN} octets at most.`);
    const read = readDeviceFrame(data.toString());
    if (!read.ok) return refuse(socket, 'frame', read.reason);
    const { frame } = read;
    if (frame.type === 'hello' && hello === null) {
      hello = frame;
      if (frame.version !== LINE_VERSION) {
        const reason = `This controller speaks version ${LINE_VERSION} of the line, not ${frame.version}.`;
        stranger(frame, reason);
        return refuse(socket, 'version', reason);
      }
      socket.send(JSON.stringify({ type: 'challenge', nonce } satisfies ControllerFrame));
    } else if (frame.type === 'proof' && hello !== null) {
      if (!isProof(hello, nonce, frame.signature))
        return refuse(socket, 'proof', 'The signature does not fit the key.');
      clearTimeout(timer);
      socket.off('message', hear);
      socket.pause(); // nothing it says is read before its line is entered
      const { first } = frame;
      void proven({ ...hello, ...(first ? { first } : {}) }).catch((error: unknown) => {
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
