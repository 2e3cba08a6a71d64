/** A frame as it was taken off a port. */
export interface CapturedFrame {
  /** Microseconds since 1970. */
  readonly at: number;
  readonly bytes: Uint8Array;
  /** Octets it had on the wire; more than `bytes` holds when it was cut. */
  readonly length: number;
}

const SECTION = 0x0a0d0d0a;
const INTERFACE = 1;
const ENHANCED_PACKET = 6;
const BYTE_ORDER = 0x1a2b3c4d;
const ETHERNET = 1;
const SNAP = 256;
const [OPTION_NAME, OPTION_APPLICATION] = [2, 4];

/**
 * Writes frames of one Ethernet port as a capture file (pcapng, draft-ietf-opsawg-pcapng: section header §4.1,
 * interface description §4.2, enhanced packets §4.3), little-endian, times in microseconds.
 * @param name of the port, shown by programs that read the file.
 */
export function writePcapng(name: string, frames: readonly CapturedFrame[]): Uint8Array {
  const blocks = [
    block(SECTION, [
      u32(BYTE_ORDER),
      u16(1),
      u16(0),
      new Uint8Array(8).fill(0xff),
      option(OPTION_APPLICATION, 'Iron Lattice'),
      u32(0),
    ]),
    block(INTERFACE, [u16(ETHERNET), u16(0), u32(SNAP), option(OPTION_NAME, name), u32(0)]),
    ...frames.map(({ at, bytes, length }) =>
      block(ENHANCED_PACKET, [
        u32(0),
        u32(Math.floor(at / 2 ** 32)),
        u32(at % 2 ** 32),
        u32(bytes.length),
        u32(length),
        padded(bytes),
      ]),
    ),
  ];
  return join(blocks);
}

function block(type: number, body: readonly Uint8Array[]): Uint8Array {
  const content = join(body);
  const total = u32(content.length + 12);
  return join([u32(type), total, content, total]);
}

function option(code: number, text: string): Uint8Array {
  const bytes = Uint8Array.from(text, (letter) => letter.charCodeAt(0) & 127); // port names and ours are ASCII
  return join([u16(code), u16(bytes.length), padded(bytes)]);
}

/** Blocks and options end on four octets. */
function padded(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(Math.ceil(bytes.length / 4) * 4);
  out.set(bytes);
  return out;
}

function u16(value: number): Uint8Array {
  return Uint8Array.of(value & 255, value >>> 8);
}

function u32(value: number): Uint8Array {
  return Uint8Array.of(value & 255, (value >>> 8) & 255, (value >>> 16) & 255, value >>> 24);
}

function join(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
