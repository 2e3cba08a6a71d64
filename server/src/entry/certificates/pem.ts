/** Octets between the lines of a PEM (RFC 7468). */
export const derOf = (pem: string): ArrayBuffer =>
  new Uint8Array(Buffer.from(pem.replace(/-----[^-]+-----/g, ''), 'base64')).buffer;
