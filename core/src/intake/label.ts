import { formatMac, parseMac } from '../address';

/** What a device's label tells. */
export interface Label {
  readonly serial: string;
  readonly model: string | null;
  readonly mac: string | null;
  /** First 16 hex digits of the SHA-256 of its public key. */
  readonly fingerprint: string | null;
}

/**
 * Reads the text of a label: `lattice:device?serial=…&model=…&mac=…&key=…` as its QR code holds it, or a serial
 * number alone, as printed beside it.
 * @returns null when the text is neither.
 */
export function readLabel(text: string): Label | null {
  const bare = text.trim();
  const match = /^lattice:device\?(.*)$/i.exec(bare);
  const fields = fieldsOf(match?.[1] ?? '');
  const serial = (match ? (fields.get('serial') ?? '') : bare).toUpperCase();
  if (!/^[0-9A-Z][0-9A-Z-]{3,31}$/.test(serial)) return null;
  const mac = parseMac(fields.get('mac') ?? '');
  const key = (fields.get('key') ?? '').toLowerCase();
  return {
    serial,
    model: fields.get('model') ?? null,
    mac: mac === null ? null : formatMac(mac),
    fingerprint: /^[0-9a-f]{16}$/.test(key) ? key : null,
  };
}

/** The text a label's QR code holds. */
export function writeLabel({ serial, model, mac, fingerprint }: Label): string {
  const fields = Object.entries({ serial, model, mac, key: fingerprint }).flatMap(([name, value]) =>
    value === null ? [] : [`${name}=${encodeURIComponent(value)}`],
  );
  return `lattice:device?${fields.join('&')}`;
}

/** Fields of a query (RFC 3986 §3.4); one that cannot be decoded counts as absent. */
function fieldsOf(query: string): Map<string, string> {
  const fields = new Map<string, string>();
  for (const pair of query.split('&')) {
    const [name, value] = pair.split('=');
    if (!name || value === undefined) continue;
    try {
      fields.set(name.toLowerCase(), decodeURIComponent(value));
    } catch {
      continue;
    }
  }
  return fields;
}
