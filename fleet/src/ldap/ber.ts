/** One element (ITU-T X.690 §8.1): its tag, and what is in it. */
export interface Element {
  readonly tag: number;
  readonly value: Buffer;
}

/** Octets of the element that begins here; null: that cannot be told yet; infinite: it has no length that one can have. */
export function sizeOf(octets: Buffer): number | null {
  if (octets.length < 2) return null;
  const first = octets[1]!;
  if (first < 0x80) return 2 + first;
  const more = first & 0x7f;
  if (more === 0 || more > 4) return Infinity;
  return octets.length < 2 + more ? null : 2 + more + octets.readUIntBE(2, more);
}

/** Elements one after the other. @throws RangeError where one is cut. */
export function elementsOf(octets: Buffer): Element[] {
  const all: Element[] = [];
  for (let rest = octets; rest.length > 0;) {
    const size = sizeOf(rest);
    if (size === null || size > rest.length) throw new RangeError('an element is cut');
    const head = rest[1]! < 0x80 ? 2 : 2 + (rest[1]! & 0x7f);
    all.push({ tag: rest[0]!, value: rest.subarray(head, size) });
    rest = rest.subarray(size);
  }
  return all;
}

/** An element of others, of text, or of a number up to 2³¹ − 1. */
export function element(tag: number, value: string | number | readonly Buffer[]): Buffer {
  const body =
    typeof value === 'string'
      ? Buffer.from(value)
      : typeof value === 'number'
        ? numberOctets(value)
        : Buffer.concat(value);
  const size = body.length < 0x80 ? Buffer.of(body.length) : Buffer.of(0x84, 0, 0, 0, 0);
  if (size.length > 1) size.writeUInt32BE(body.length, 1);
  return Buffer.concat([Buffer.of(tag), size, body]);
}

function numberOctets(value: number): Buffer {
  const octets = Buffer.alloc(5);
  octets.writeUInt32BE(value, 1);
  let from = 0;
  while (from < 4 && octets[from] === 0 && octets[from + 1]! < 0x80) from++;
  return octets.subarray(from);
}

export const numberIn = ({ value }: Element): number =>
  value.length === 0 || value.length > 6 ? 0 : value.readUIntBE(0, value.length);
export const textIn = ({ value }: Element): string => value.toString('utf8');
