/** Marks of an EAP-TLS packet (RFC 5216 §3.1): a length follows, more pieces follow, begin. The low bits are a version. */
export const TLS_MARK = { length: 0x80, more: 0x40, start: 0x20 } as const;
/** Octets of one piece, and of all pieces together: a chain of certificates has a few thousand. */
export const [PIECE_OCTETS, MOST_TLS_OCTETS] = [1000, 65_536] as const;

/** Parts octets into the data of EAP-TLS packets, the length in the first where there are several (RFC 5216 §2.1.5). */
export function tlsPieces(octets: Uint8Array): Uint8Array[] {
  if (octets.length <= PIECE_OCTETS) return [Uint8Array.of(0, ...octets)];
  const pieces: Uint8Array[] = [];
  for (let at = 0; at < octets.length; at += PIECE_OCTETS) {
    const part = octets.subarray(at, at + PIECE_OCTETS);
    const more = at + PIECE_OCTETS < octets.length ? TLS_MARK.more : 0;
    const size = [24, 16, 8, 0].map((shift) => (octets.length >>> shift) & 255);
    pieces.push(at === 0 ? Uint8Array.of(TLS_MARK.length | more, ...size, ...part) : Uint8Array.of(more, ...part));
  }
  return pieces;
}

/** What a piece that came means. */
export type TookPiece =
  /** The other end wants the next of our pieces, or has nothing to say. */
  | { readonly kind: 'empty' }
  | { readonly kind: 'more' }
  | { readonly kind: 'whole'; readonly octets: Uint8Array }
  | { readonly kind: 'wrong'; readonly why: string };

/** Puts pieces together as they come. */
export class TlsAssembly {
  private parts: Uint8Array[] = [];
  private size = 0;
  private said: number | null = null;

  /** @param data of an EAP-TLS packet, after its type. */
  take(data: Uint8Array): TookPiece {
    const mark = data[0];
    if (mark === undefined) return { kind: 'wrong', why: 'an EAP packet of TLS has no mark' };
    let at = 1;
    if (mark & TLS_MARK.length) {
      if (data.length < 5) return { kind: 'wrong', why: 'the length of TLS octets is cut' };
      const said = data.slice(1, 5).reduce((sum, octet) => sum * 256 + octet, 0);
      if (said > MOST_TLS_OCTETS) return { kind: 'wrong', why: `${said} octets of TLS are too many` };
      this.said ??= said;
      at = 5;
    }
    const part = data.slice(at);
    this.size += part.length;
    if (this.size > MOST_TLS_OCTETS || (this.said !== null && this.size > this.said))
      return { kind: 'wrong', why: 'more octets of TLS came than were said' };
    if (part.length > 0) this.parts.push(part);
    if (mark & TLS_MARK.more) return part.length > 0 ? { kind: 'more' } : { kind: 'wrong', why: 'a piece is empty' };
    if (this.size === 0) return { kind: 'empty' };
    if (this.said !== null && this.size < this.said)
      return { kind: 'wrong', why: 'fewer octets of TLS came than were said' };
    const octets = new Uint8Array(this.size);
    let to = 0;
    for (const each of this.parts) {
      octets.set(each, to);
      to += each.length;
    }
    [this.parts, this.size, this.said] = [[], 0, null];
    return { kind: 'whole', octets };
  }
}

/** Octets of ours on their way out, piece by piece: the next goes when the other end asks for it. */
export class TlsOutbox {
  private pieces: Uint8Array[] = [];

  put(octets: Uint8Array): void {
    this.pieces.push(...tlsPieces(octets));
  }

  get waits(): boolean {
    return this.pieces.length > 0;
  }

  /** The next piece; an empty packet where there is none. */
  next(): Uint8Array {
    return this.pieces.shift() ?? Uint8Array.of(0);
  }
}
