/** What is asked for at an address. */
export interface Wanted {
  readonly protocol: 'icmp' | 'tcp' | 'udp';
  readonly port?: number;
  /** Mark that its packets bear (RFC 2474). */
  readonly dscp?: number;
}
/** Whether somebody answered, and where it ended if not. */
export interface Got {
  readonly ok: boolean;
  readonly why: string;
  /** The rule, or the isolation, that stopped it. */
  readonly stoppedBy?: string;
}
