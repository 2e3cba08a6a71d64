declare module 'punycode/punycode.js' {
  /** Punycode of domain names (RFC 3492). The path tells it from what Node.js has of that name. */
  const punycode: { toASCII(name: string): string; toUnicode(name: string): string };
  export default punycode;
}
