/** The other end of a tunnel as `wg` is told of it. */
export interface WireguardPeer {
  readonly name: string;
  /** Its public key (Curve25519), in base64. */
  readonly public: string;
  /** Where it is found, and at which UDP port; null: it is the one that calls. */
  readonly at: string | null;
  readonly port: number;
  /** Prefixes that lead to it, and that it may send from: each at one other end alone. */
  readonly carries: readonly string[];
}

/**
 * One interface of a gateway’s tunnels as a file for `wg setconf`; the private key is told to the gateway alone, and stands in no file.
 * @param how.port UDP port that it listens at. @param how.keepalive seconds after which the other end is sent something.
 */
export function wireguardOf(
  name: string,
  peers: readonly WireguardPeer[],
  { port, keepalive }: { readonly port: number; readonly keepalive: number },
): string {
  const plain = (text: string): string => text.replace(/[^ -~]/g, ' ');
  return [
    `# Tunnels of ${plain(name)} to other sites, for wg setconf.`,
    '# PrivateKey: the controller tells it to its gateway, and shows it to nobody.',
    '[Interface]',
    `ListenPort = ${port}`,
    ...peers.flatMap(({ name: peer, public: key, at, port: there, carries }) => [
      '',
      `# ${plain(peer)}`,
      '[Peer]',
      `PublicKey = ${key}`,
      ...(at === null ? [] : [`Endpoint = ${at.includes(':') ? `[${at}]` : at}:${there}`]),
      // It reads no empty list.
      ...(carries.length > 0 ? [`AllowedIPs = ${carries.join(', ')}`] : []),
      `PersistentKeepalive = ${keepalive}`,
    ]),
    '',
  ].join('\n');
}
