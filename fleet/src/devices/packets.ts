import { parseIp } from '@iron-lattice/core/address';

/** Writers of the few frames that pass a box’s ports; network byte order throughout. */

const octets = (mac: string): Buffer => Buffer.from(mac.replaceAll(':', ''), 'hex');
const ip4 = (text: string): Buffer => {
  const out = Buffer.alloc(4);
  out.writeUInt32BE(Number(parseIp(text)!.value));
  return out;
};

/** Ethernet II, tagged (IEEE 802.1Q §9.6) when a VLAN is given. */
export function ethernet(to: string, from: string, type: number, payload: Buffer, vlan: number | null = null): Buffer {
  const head = Buffer.alloc(2);
  head.writeUInt16BE(type);
  const tag = Buffer.alloc(vlan === null ? 0 : 4);
  if (vlan !== null) {
    tag.writeUInt16BE(0x8100);
    tag.writeUInt16BE(vlan, 2);
  }
  return Buffer.concat([octets(to), octets(from), tag, head, payload]);
}

/** A link-layer announcement (IEEE 802.1AB-2016 §8.5): chassis by MAC address, port by name, 120 s to live. */
export function lldp(from: string, port: string): Buffer {
  const tlv = (type: number, value: Buffer): Buffer => {
    const head = Buffer.alloc(2);
    head.writeUInt16BE((type << 9) | value.length);
    return Buffer.concat([head, value]);
  };
  const payload = Buffer.concat([
    tlv(1, Buffer.concat([Buffer.from([4]), octets(from)])),
    tlv(2, Buffer.concat([Buffer.from([5]), Buffer.from(port)])),
    tlv(3, Buffer.from([0, 120])),
    tlv(0, Buffer.alloc(0)),
  ]);
  return ethernet('01:80:c2:00:00:0e', from, 0x88cc, payload);
}

/** A question who has an address (RFC 826). */
export function arpRequest(from: string, fromIp: string, targetIp: string): Buffer {
  const head = Buffer.from([0, 1, 8, 0, 6, 4, 0, 1]);
  const payload = Buffer.concat([head, octets(from), ip4(fromIp), Buffer.alloc(6), ip4(targetIp)]);
  return ethernet('ff:ff:ff:ff:ff:ff', from, 0x0806, payload);
}

/** An echo request or reply (RFC 792) in IPv4 (RFC 791 §3.1). */
export function icmpEcho(
  kind: 'request' | 'reply',
  ends: { readonly from: string; readonly to: string; readonly fromIp: string; readonly toIp: string },
  sequence: number,
): Buffer {
  const echo = Buffer.alloc(40, 0x61);
  echo.writeUInt8(kind === 'request' ? 8 : 0, 0);
  echo.writeUInt8(0, 1);
  echo.writeUInt16BE(0, 2);
  echo.writeUInt16BE(0x4c, 4);
  echo.writeUInt16BE(sequence, 6);
  echo.writeUInt16BE(checksum(echo), 2);
  return ipv4(ends, 1, echo);
}

/** A piece of a TCP stream (RFC 9293 §3.1) without its contents: only the header and as many octets as there were. */
export function tcpSegment(
  ends: { readonly from: string; readonly to: string; readonly fromIp: string; readonly toIp: string },
  ports: { readonly from: number; readonly to: number },
  sequence: number,
  length: number,
): Buffer {
  const head = Buffer.alloc(20 + length);
  head.writeUInt16BE(ports.from, 0);
  head.writeUInt16BE(ports.to, 2);
  head.writeUInt32BE(sequence >>> 0, 4);
  head.writeUInt8(5 << 4, 12);
  head.writeUInt8(0x18, 13); // PSH, ACK
  head.writeUInt16BE(65_535, 14);
  const pseudo = Buffer.concat([
    ip4(ends.fromIp),
    ip4(ends.toIp),
    Buffer.from([0, 6, head.length >> 8, head.length & 255]),
  ]);
  head.writeUInt16BE(checksum(Buffer.concat([pseudo, head])), 16);
  return ipv4(ends, 6, head);
}

function ipv4(
  {
    from,
    to,
    fromIp,
    toIp,
  }: { readonly from: string; readonly to: string; readonly fromIp: string; readonly toIp: string },
  protocol: number,
  payload: Buffer,
): Buffer {
  const head = Buffer.alloc(20);
  head.writeUInt8(0x45, 0);
  head.writeUInt16BE(20 + payload.length, 2);
  head.writeUInt8(64, 8);
  head.writeUInt8(protocol, 9);
  ip4(fromIp).copy(head, 12);
  ip4(toIp).copy(head, 16);
  head.writeUInt16BE(checksum(head), 10);
  return ethernet(to, from, 0x0800, Buffer.concat([head, payload]));
}

/** The Internet checksum (RFC 1071 §1). */
export function checksum(bytes: Buffer): number {
  let sum = 0;
  for (let at = 0; at < bytes.length; at += 2) sum += (bytes[at]! << 8) + (bytes[at + 1] ?? 0);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >>> 16);
  return ~sum & 0xffff;
}
